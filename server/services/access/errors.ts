import type { Problem } from '#core/engine/state/events'
import type { ErrorAnswer } from '#shared/api/endpoint'

type Code = ErrorAnswer['error']['code']
const STATUS: Record<Code, number> = {
  invalid: 400,
  not_signed_in: 401,
  second_factor: 401,
  password_change_needed: 403,
  not_allowed: 403,
  not_found: 404,
  conflict: 409,
  already_done: 409,
  wrong_method: 405,
  refused: 422,
  throttled: 429,
  too_large: 413,
  timed_out: 503,
  unavailable: 503,
  failed: 500,
}

/**
 * A reason for the caller why something was not done: answered in the one shape of errors, with the status of its code.
 */
export class Refusal extends Error {
  readonly status: number
  /** `retryAfter`: seconds to wait before it is worth trying again. */
  constructor(
    readonly code: Code,
    message: string,
    readonly problems: readonly Problem[] = [],
    readonly current?: unknown,
    readonly retryAfter?: number,
  ) {
    super(message)
    this.status = STATUS[code]
  }
}

/** What the engine refused, as one refusal with every problem at its field. */
export function refusedBy(problems: readonly Problem[]): Refusal {
  return new Refusal('refused', problems.map((problem) => problem.message).join('. '), problems)
}

/** The same answer whether something does not exist or is not the caller's to see. */
export function notFound(what: string): Refusal {
  return new Refusal('not_found', `There is no such ${what}`)
}

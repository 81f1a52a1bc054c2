import { capitalized, STEP_KINDS, type StepKind } from '#core/enumerations'
import type { StepDraft } from '#shared/api/cadences'

/** A new step to follow those there are: two business days after the last one. */
export function blankStep(kind: StepKind, steps: readonly StepDraft[]): StepDraft {
  return {
    id: crypto.randomUUID(),
    kind,
    wait: steps.length ? { amount: 2, unit: 'business_days' } : { amount: 0, unit: 'hours' },
    name: `${capitalized(STEP_KINDS[kind])} ${steps.filter((one) => one.kind === kind).length + 1}`,
    subject: '',
    body: kind === 'email' ? 'Hello {{ first_name | default: "there" }},\n\n' : '',
    requiresPrevious: false,
  }
}

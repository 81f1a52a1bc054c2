import { z } from 'zod'

/** How a touch is drawn on the thread. */
export type Knot = 'call' | 'email' | 'reply' | 'task' | 'meeting'

/**
 * A kind of event: what the log holds of it, to whom it happens, and how it is shown. `payload` holds ids, values and
 * codes, and refuses everything else: no names, nothing that someone wrote.
 */
export interface EventKind {
  payload: z.ZodType
  /**
   * To what it happens: a prospect; a company, by way of a prospect there or of none; a deal, by way of its prospect; a
   * list; a form, by way of who sent it or of none.
   */
  scope: 'prospect' | 'company' | 'deal' | 'list' | 'form'
  /** Its title among the activity. */
  title: string
  /** Whether the user who did it, or a manager, can undo it. */
  undoable: boolean
  /**
   * Paths of what people write with it, and where that goes instead of the log: beside it, where it is erased with the
   * person, or into a row of its own (a note, a meeting, a deal).
   */
  redact: Readonly<Record<string, 'beside' | 'ownRow'>>
  knot?: Knot
}

type Shape = Record<string, z.ZodType>

/** A kind of event that happens to a prospect; `payload` is the shape of what the log holds. */
export function happens(title: string, payload: Shape = {}, more: Partial<EventKind> = {}): EventKind {
  return { payload: z.strictObject(payload), scope: 'prospect', title, undoable: false, redact: {}, ...more }
}

/** As `happens`, for what happens to a company. */
export function happensToCompany(title: string, payload: Shape = {}, more: Partial<EventKind> = {}): EventKind {
  return happens(title, payload, { scope: 'company', ...more })
}

/** As `happens`, for what happens to a deal, whose id the payload holds as `dealId`. */
export function happensToDeal(title: string, payload: Shape = {}, more: Partial<EventKind> = {}): EventKind {
  return happens(title, { dealId: ref, ...payload }, { scope: 'deal', ...more })
}

/** As `happens`, for what happens to a list. */
export function happensToList(title: string, payload: Shape = {}, more: Partial<EventKind> = {}): EventKind {
  return happens(title, payload, { scope: 'list', ...more })
}

/** As `happens`, for one that can be undone. */
export function undoable(title: string, payload: Shape = {}, more: Partial<EventKind> = {}): EventKind {
  return happens(title, payload, { undoable: true, ...more })
}

export const ref = z.uuid()
export const moment = z.number().int()
/** Fields that were changed, by their columns, or the ids of custom fields. */
export const fieldNames = z.array(z.string().max(60))

import type { StepDraft } from '#shared/api/cadences'

/** A step as a cadence that ships, or the demo's, is written down: its id is made when it is taken. */
export type UnsavedStep = Omit<StepDraft, 'id'>

export const step = (
  kind: UnsavedStep['kind'],
  amount: number,
  unit: UnsavedStep['wait']['unit'],
  name: string,
  body: string,
  subject = '',
): UnsavedStep => ({ kind, wait: { amount, unit }, name, subject, body, requiresPrevious: false })

/** The step, left out where the one before it was not done. */
export const ifPreviousDone = (made: UnsavedStep): UnsavedStep => ({ ...made, requiresPrevious: true })

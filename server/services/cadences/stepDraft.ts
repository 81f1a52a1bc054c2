import { withFreshIds } from '#core/cadence/arrange'
import type { StepDraft, WayDraft } from '#shared/api/cadences/cadences'
import { newId } from '#shared/newId'

/** A step as a cadence that ships, or the demo's, is written down: its id is made when it is taken. */
export type UnsavedStep = Omit<StepDraft, 'id'>

export const step = (
  kind: UnsavedStep['kind'],
  amount: number,
  unit: UnsavedStep['wait']['unit'],
  name: string,
  body: string,
  subject = '',
): UnsavedStep => ({
  kind,
  wait: { amount, unit, at: null },
  name,
  subject,
  body,
  html: null,
  attachments: [],
  weight: 1,
  versions: [],
  templateId: null,
  link: '',
  review: false,
  requiresPrevious: false,
  wayId: null,
  ways: [],
  endsEarly: false,
})

/** The step, left out where the one before it was not done. */
export const ifPreviousDone = (made: UnsavedStep): UnsavedStep => ({ ...made, requiresPrevious: true })

interface UnsavedWay {
  name: string
  when: WayDraft['when']
  ends?: boolean
  steps: UnsavedStep[]
}

/** A branch with its ways; it goes on as soon as one of them fits. */
export function branch(
  amount: number,
  unit: UnsavedStep['wait']['unit'],
  name: string,
  ways: readonly UnsavedWay[],
): UnsavedStep[] {
  const made = ways.map(({ ends = false, ...way }) => ({ ...way, ends, id: newId() }))
  return [
    {
      ...step('branch', amount, unit, name, ''),
      ways: made.map(({ steps: _, ...way }) => way),
      endsEarly: true,
    },
    ...made.flatMap(({ id, steps }) => steps.map((one) => ({ ...one, wayId: one.wayId ?? id }))),
  ]
}

/** Steps and their ways under new ids. */
export const withNewIds = (steps: readonly UnsavedStep[]): StepDraft[] => withFreshIds(steps, null, newId)

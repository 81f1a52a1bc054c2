import { capitalized, STEP_KINDS, type StepKind } from '#core/enumerations'
import type { StepDraft, WayDraft } from '#shared/api/cadences/cadences'
import { newId } from '#shared/newId'

/** A way for those whose last email was opened: what decides is changed from there. */
export function blankWay(): WayDraft {
  return { id: newId(), name: 'Opened', when: { type: 'opened' }, ends: false }
}

/**
 * A new step on a way: two business days after the one before it, the first one at once. A branch waits as long for
 * something to happen.
 */
export function blankStep(kind: StepKind, steps: readonly StepDraft[], wayId: string | null): StepDraft {
  const follows = steps.some((one) => one.wayId === wayId)
  return {
    id: newId(),
    kind,
    wait: follows ? { amount: 2, unit: 'business_days', at: null } : { amount: 0, unit: 'hours', at: null },
    name: `${capitalized(STEP_KINDS[kind])} ${steps.filter((one) => one.kind === kind).length + 1}`,
    subject: '',
    body: kind === 'email' ? 'Hello {{ first_name | default: "there" }},\n\n' : '',
    html: null,
    attachments: [],
    weight: 1,
    versions: [],
    templateId: null,
    link: '',
    review: false,
    requiresPrevious: false,
    wayId: null,
    ways: kind === 'branch' ? [blankWay(), { id: newId(), name: 'Everyone else', when: null, ends: false }] : [],
    endsEarly: kind === 'branch',
  }
}

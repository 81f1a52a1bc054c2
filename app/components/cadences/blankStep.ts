import { capitalized, STEP_KINDS, type StepKind } from '#core/enumerations'
import type { StepDraft, WayDraft } from '#shared/api/cadences'

/** A way for those whose last email was opened: what decides is changed from there. */
export function blankWay(): WayDraft {
  return { id: crypto.randomUUID(), name: 'Opened', when: { type: 'opened' }, ends: false }
}

/** A new step to follow those there are: two business days after the last one; a branch waits as long for an answer. */
export function blankStep(kind: StepKind, steps: readonly StepDraft[]): StepDraft {
  return {
    id: crypto.randomUUID(),
    kind,
    wait: steps.length ? { amount: 2, unit: 'business_days' } : { amount: 0, unit: 'hours' },
    name: `${capitalized(STEP_KINDS[kind])} ${steps.filter((one) => one.kind === kind).length + 1}`,
    subject: '',
    body: kind === 'email' ? 'Hello {{ first_name | default: "there" }},\n\n' : '',
    requiresPrevious: false,
    wayId: null,
    ways:
      kind === 'branch'
        ? [blankWay(), { id: crypto.randomUUID(), name: 'Everyone else', when: null, ends: false }]
        : [],
    endsEarly: kind === 'branch',
  }
}

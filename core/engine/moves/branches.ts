import { versionAt, type Step, type Way } from '../../cadence/steps'
import type { WayCondition } from '../../cadence/ways'
import { fitsNow } from '../state/facts'
import { ofProspect, openEnrollments, type Enrollment, type Prospect } from '../state/engineState'
import type { ReactionContext } from '../state/reactionContext'

/** What of a way's condition can happen while one waits; the rest is looked at when the wait is over. */
const HAPPENS: ReadonlySet<WayCondition['type']> = new Set([
  'outcome',
  'reached',
  'opened',
  'clicked',
  'replied',
  'answeredText',
])

/**
 * The way an enrollment takes at a branch: the first that fits. Null where a way asks what was not read of the
 * prospect.
 */
export function wayTaken(context: ReactionContext, enrollment: Enrollment, branch: Step): Way | null {
  for (const way of branch.ways) {
    if (way.when?.type === 'filter' && !context.state.facts[enrollment.prospectId]) return null
    if (!way.when || fitsWay(context, enrollment, way.when)) return way
  }
  return null
}

/** Whether a way's condition holds for an enrollment, by what has happened since it started and what is known now. */
function fitsWay({ state, playbook }: ReactionContext, enrollment: Enrollment, when: WayCondition): boolean {
  const touches = ofProspect(state, 'touch', enrollment.prospectId).filter((touch) => touch.at >= enrollment.startedAt)
  const latest = <Row extends { at: number; id: string }>(rows: readonly Row[]) =>
    [...rows].sort((a, b) => b.at - a.at || (a.id < b.id ? 1 : -1))[0]
  switch (when.type) {
    case 'outcome': {
      const calls = touches.filter((touch) => touch.enrollmentId === enrollment.id && touch.outcomeId !== null)
      return when.outcomeIds.includes(latest(calls)?.outcomeId ?? '')
    }
    case 'reached':
      return touches.some((touch) => touch.countsAs === 'conversation')
    case 'replied':
      return touches.some((touch) => touch.kind === 'reply')
    case 'answeredText':
      // Only an answer by text came from a number.
      return touches.some((touch) => touch.kind === 'reply' && touch.phoneId !== null)
    case 'opened':
    case 'clicked': {
      const sent = touches.filter((touch) => touch.kind === 'email' && touch.enrollmentId === enrollment.id)
      const message = state.emailMessage[latest(sent)?.messageId ?? '']
      return (when.type === 'opened' ? message?.openedAt : message?.clickedAt) != null
    }
    case 'filter':
      return fitsNow(state, playbook, enrollment.prospectId, when.where)
  }
}

/**
 * Ends the wait at a branch as soon as something has happened that one of its ways is about: the step is due now. A
 * conversation or a reply may end the cadence before that, by its exits.
 */
export function endWaitsEarly(context: ReactionContext, prospect: Prospect): void {
  for (const enrollment of openEnrollments(context.state, prospect.id)) {
    if (enrollment.status !== 'waiting' || enrollment.dueAt === null || enrollment.dueAt <= context.now) continue
    const cadence = context.playbook.cadences[enrollment.cadenceId]
    const step = cadence && versionAt(cadence, enrollment.stepId).steps.find(({ id }) => id === enrollment.stepId)
    if (step?.kind !== 'branch' || !step.endsEarly) continue
    const way = step.ways.find(({ when }) => when && HAPPENS.has(when.type) && fitsWay(context, enrollment, when))
    if (!way) continue
    context.change(
      'moveEnrollment',
      'enrollment',
      enrollment.id,
      { dueAt: context.now },
      { source: 'step', id: step.id, rule: 'wayFits', values: { stepId: step.id, wayId: way.id } },
    )
  }
}

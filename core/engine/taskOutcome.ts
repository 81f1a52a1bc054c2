import { perform } from '../actions/registry'
import { OUTCOME_USES, type OutcomeUse, type TaskKind, type TouchKind } from '../enumerations'
import { checkDetails } from './callOutcome'
import { dropUnchosenPlan } from './moves/nextAction'
import { advance } from './moves/progress'
import { touch } from './moves/work'
import type { Cause } from './state/effects'
import type { DomainEvent } from './state/events'
import type { ReactionContext } from './state/reactionContext'

type TaskDone = Extract<DomainEvent, { kind: 'taskDone' }>

/** What was done with someone where a task of a kind is ticked off; a plain task where it is not here. */
const TOUCH_OF_TASK: Partial<Record<TaskKind, TouchKind>> = {
  meeting_result: 'meeting',
  meeting: 'meeting',
  email: 'email',
  text: 'text',
  social: 'social',
}

/** To-dos that are done without a call, and can have an outcome of their own. */
const TO_DOS: ReadonlySet<TaskKind> = new Set(['task', 'email', 'text', 'social', 'meeting'])

/** Which outcomes are for a piece of work: what is no reply and no to-do is worked by phone. */
export function useOf(kind: TaskKind | null): OutcomeUse {
  if (kind === 'reply') return 'reply'
  return kind && TO_DOS.has(kind) ? 'task' : 'call'
}

/**
 * A task is done, as such or with an outcome: the touch, then the actions of the outcome in order. A cadence that
 * waited for it goes on, unless these took the prospect elsewhere.
 */
export function onTaskDone(context: ReactionContext, event: TaskDone): void {
  const task = context.state.task[event.taskId]
  if (!task || task.status !== 'open') return context.refuse('task', 'Already handled')
  const prospect = context.state.prospect[task.prospectId]!
  const outcome = event.outcomeId ? context.playbook.outcomes[event.outcomeId] : undefined
  const details = event.details ?? {}
  if (event.outcomeId) {
    if (!outcome) return context.refuse('outcome', 'There is no such outcome')
    const use = useOf(task.kind)
    if (use === 'call') return context.refuse('task', 'This is a phone step: log the outcome of the call')
    if (!outcome.usedFor.includes(use)) {
      return context.refuse('outcome', `“${outcome.name}” is not used for ${OUTCOME_USES[use]}`)
    }
    checkDetails(context, prospect, outcome, details)
    if (context.problems.length) return
  }
  const cause: Cause = outcome ? { source: 'outcome', id: outcome.id } : { source: 'person' }
  context.change('finishTask', 'task', task.id, { status: 'done', doneAt: context.now }, cause)
  const meeting =
    task.kind === 'meeting_result'
      ? Object.values(context.state.meeting).find(
          (row) => row.prospectId === prospect.id && row.status === 'booked' && row.endAt === task.dueAt,
        )
      : undefined
  if (meeting) context.change('settleMeeting', 'meeting', meeting.id, { status: 'held' }, cause)
  const kind = TOUCH_OF_TASK[task.kind] ?? 'task'
  touch(
    context,
    prospect,
    {
      kind,
      // What an outcome counts as is for calls. A reply was counted when it came.
      countsAs: kind === 'meeting' ? 'conversation' : 'none',
      outcomeId: outcome?.id ?? null,
      reason: details.reason?.trim() || null,
      quality: details.quality ?? null,
      succeeded: details.succeeded ?? null,
      enrollmentId: task.enrollmentId,
      stepId: task.stepId,
    },
    cause,
  )
  // Done on an email that could not go means: without it.
  const message = task.kind === 'check_mail' && task.messageId ? context.state.emailMessage[task.messageId] : null
  if (message?.status === 'held') {
    context.change('cancelEmail', 'emailMessage', message.id, { status: 'cancelled' }, cause)
  }
  const enrollment = task.enrollmentId ? (context.state.enrollment[task.enrollmentId] ?? null) : null
  if (outcome) {
    // What was planned for want of an answer is off; a to-do changes nothing of that.
    if (task.kind === 'reply') dropUnchosenPlan(context, prospect)
    const now = context.state.prospect[prospect.id]!
    perform(
      {
        context,
        prospect: now,
        stageBefore: prospect.stageId,
        enrollment: enrollment?.status === 'ended' ? null : enrollment,
        phoneId: null,
        details,
        outcome,
        cause,
      },
      outcome.actions,
    )
  }
  const after = enrollment && context.state.enrollment[enrollment.id]
  if (after?.status === 'active' && after.stepId === task.stepId) {
    advance(context, context.state.prospect[prospect.id]!, after, { source: 'step', id: after.stepId })
  }
}

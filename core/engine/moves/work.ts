import type { TaskKind } from '../../enumerations'
import type { Id, Instant } from '../../instant'
import type { Cause } from '../state/effects'
import { ofProspect, type Prospect, type Task, type Touch } from '../state/engineState'
import type { ReactionContext } from '../state/reactionContext'
import { startWork } from './gates'

/** Work on a Desk, and what was done: tasks and touches. */

/** Puts a piece of work on someone's Desk. */
export function makeTask(
  context: ReactionContext,
  prospect: Prospect,
  task: {
    kind: TaskKind
    priority: number
    title: string
    dueAt: Instant
    enrollmentId?: Id
    stepId?: Id
    messageId?: Id
    ownerId?: Id | null
  },
  cause: Cause,
): Task {
  return context.create(
    'createTask',
    'task',
    {
      id: context.newId(),
      prospectId: prospect.id,
      ownerId: task.ownerId ?? prospect.ownerId ?? context.event.actorId,
      kind: task.kind,
      priority: task.priority,
      title: task.title,
      dueAt: task.dueAt,
      status: 'open',
      doneAt: null,
      enrollmentId: task.enrollmentId ?? null,
      stepId: task.stepId ?? null,
      messageId: task.messageId ?? null,
      timeZone: prospect.timeZone,
    },
    cause,
  )
}

/** Cancels open plans of the kinds given that belong to no cadence: what is planned now takes their place. */
export function replacePlans(
  context: ReactionContext,
  prospect: Prospect,
  kinds: readonly TaskKind[],
  cause: Cause,
): void {
  for (const task of ofProspect(context.state, 'task', prospect.id)) {
    if (task.status !== 'open' || task.enrollmentId !== null || !kinds.includes(task.kind)) continue
    context.change('cancelTask', 'task', task.id, { status: 'cancelled', doneAt: context.now }, cause)
  }
}

/** Writes down a touch; the first one takes a new person to the stage the playbook names. */
export function touch(
  context: ReactionContext,
  prospect: Prospect,
  made: Pick<Touch, 'kind' | 'countsAs'> & Partial<Touch>,
  cause: Cause,
): void {
  context.create(
    'recordTouch',
    'touch',
    {
      id: context.newId(),
      prospectId: prospect.id,
      at: context.now,
      userId: context.event.actorId,
      outcomeId: null,
      reason: null,
      quality: null,
      succeeded: null,
      phoneId: null,
      enrollmentId: null,
      stepId: null,
      messageId: null,
      ...made,
    },
    cause,
  )
  startWork(context, prospect)
}

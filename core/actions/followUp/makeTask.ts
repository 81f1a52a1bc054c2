import { z } from 'zod'
import type { Id } from '../../instant'
import { WAIT_UNITS, valuesOf, type TaskKind } from '../../enumerations'
import { afterWait, lengthInWords } from '../../cadence/wait'
import { ofProspect, placeOf, type EngineState } from '../../engine/state/engineState'
import { workingMoment } from '../../engine/moves/nextAction'
import { makeTask as make, replacePlans } from '../../engine/moves/work'
import { whyNotPlan } from '../../engine/moves/stops'
import { actionSchema, defineAction, mustBeThere } from '../kind/define'

/** What an outcome may put on the Desk. */
export const TASKS_MADE = { follow_up: 'follow-up', call: 'call', task: 'to-do' } as const

/** Whether the same to-do is open already, from an action or planned by hand. */
const isOpen = (state: EngineState, prospectId: Id, title: string, ownerId: Id | null) =>
  ofProspect(state, 'task', prospectId).some(
    (task) =>
      task.status === 'open' &&
      task.kind === 'task' &&
      task.stepId === null &&
      task.title === title &&
      task.ownerId === ownerId,
  )

/**
 * Puts a follow-up, a call or a to-do on the Desk: of the prospect's owner, of who logged it, or of a user. A follow-up
 * or call replaces those planned before; a to-do that is open already is not made again.
 */
export const makeTask = defineAction({
  type: 'makeTask',
  label: 'Make a call or to-do',
  schema: actionSchema('makeTask', {
    title: z.string().trim().min(1, 'Required').max(200),
    task: z.enum(['follow_up', 'call', 'task'] as const satisfies readonly TaskKind[]),
    wait: z.object({
      amount: z.number().int('Whole numbers only').min(0, 'Not before now').max(730, 'At most 730'),
      unit: z.enum(valuesOf(WAIT_UNITS)),
    }),
    whose: z
      .union([z.enum(['owner', 'caller']), z.uuid('Choose a user')])
      .describe('The prospect’s owner, who logs the outcome, or a user'),
  }),
  mayWait: false,
  check: ({ whose }, names) =>
    whose === 'owner' || whose === 'caller' ? null : mustBeThere(names.users, whose, 'a user'),
  apply({ context, prospect, cause }, { title, task, wait, whose }) {
    const why = whyNotPlan(context.state, prospect, task === 'call' ? 'call' : 'task')
    if (why) return context.skip(`“${title}” is not planned: ${why}`)
    const active = context.playbook.names[whose] !== undefined
    const users = { owner: prospect.ownerId, caller: context.event.actorId }
    const ownerId = (whose === 'owner' || whose === 'caller' ? users[whose] : active && whose) || prospect.ownerId
    if (task === 'task' && isOpen(context.state, prospect.id, title, ownerId)) {
      return context.skip(`The to-do “${title}” is open already`)
    }
    if (task !== 'task') {
      replacePlans(context, prospect, ['first_contact', 'follow_up', 'call'], {
        source: 'system_rule',
        rule: 'planReplaced',
      })
    }
    const at = afterWait(context.now, wait, placeOf(prospect), context.playbook.holidays)
    const short = wait.unit === 'minutes' || wait.unit === 'hours'
    const dueAt = short && task === 'task' ? at : workingMoment(context, prospect, at)
    make(context, prospect, { kind: task, priority: 2, title, dueAt, ownerId }, cause)
  },
  describe({ title, task, wait, whose }, names) {
    const when = wait.amount ? `in ${lengthInWords(wait)}` : 'at once'
    const users = { owner: '', caller: ' for who logs it' }
    const forWhom =
      whose === 'owner' || whose === 'caller'
        ? users[whose]
        : ` for ${names.users[whose] ?? 'a user who is no longer active'}`
    return `${TASKS_MADE[task][0]!.toUpperCase()}${TASKS_MADE[task].slice(1)} “${title}” ${when}${forWhom}`
  },
})

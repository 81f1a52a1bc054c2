import { z } from 'zod'
import { SCOPES, valuesOf } from '../../enumerations'
import { colleaguesOf } from '../../engine/state/engineState'
import { passesGate } from '../../engine/moves/gates'
import { moveStage as move } from '../../engine/moves/progress'
import { actionSchema, defineAction, mustBeThere, named } from '../kind/define'

/** Moves the prospect to a stage through its gate; with everyone at the company, those whom the gate lets through. */
export const moveStage = defineAction({
  type: 'moveStage',
  label: 'Change stage',
  schema: actionSchema('moveStage', {
    to: z.string().min(1, 'Choose a stage'),
    onlyFrom: z.array(z.string()).optional().describe('Only where they stand in one of these stages'),
    scope: z.enum(valuesOf(SCOPES)).optional(),
  }),
  mayWait: true,
  reachesCompany: (action) => action.scope === 'company',
  check: (action, names) => mustBeThere(names.stages, action.to, 'a stage'),
  apply({ context, prospect, details, outcome, cause }, action) {
    // Where no reason is asked for, the outcome itself is the reason.
    const given = { reason: details.reason?.trim() || (outcome?.name ?? null), note: details.note ?? null }
    const people = action.scope === 'company' ? [prospect, ...colleaguesOf(context.state, prospect)] : [prospect]
    for (const person of people) {
      const kind = context.playbook.stages[person.stageId]?.kind
      const isOwn = person.id === prospect.id
      const fits = action.onlyFrom
        ? action.onlyFrom.includes(person.stageId)
        : isOwn || kind === 'open' || kind === 'paused'
      // A colleague whom the gate holds back stays where they are; only who was called can be asked for what it wants.
      if (!fits || (!isOwn && !passesGate(context, person, action.to, given))) continue
      move(context, person, action.to, isOwn ? given : { ...given, override: 'company' }, cause)
    }
  },
  describe: (action, names) =>
    `Stage ${named(names.stages, action.to)}${action.scope === 'company' ? ' for everyone there' : ''}`,
})

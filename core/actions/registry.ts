import { z } from 'zod'
import { lengthInWords } from '../cadence/wait'
import type { Id } from '../instant'
import type { Filter } from '../filter/filter'
import type { ActionTerms, ConfiguredAction } from '../engine/state/playbook'
import { attemptsOf, openEnrollments } from '../engine/state/engineState'
import { fitsNow } from '../engine/state/facts'
import { scheduleAction } from '../engine/moves/delayed'
import { advance } from './cadence/advance'
import { exit } from './cadence/exit'
import { goToStep } from './cadence/goToStep'
import { pauseCadence } from './cadence/pauseCadence'
import { startCadence } from './cadence/startCadence'
import type { ActionKind, ActionNames, ActionRun } from './kind/define'
import { archive } from './prospect/archive'
import { assign } from './prospect/assign'
import { changeList } from './prospect/changeList'
import { changeTag } from './prospect/changeTag'
import { markNumber } from './prospect/markNumber'
import { moveStage } from './prospect/moveStage'
import { rate } from './prospect/rate'
import { setCompanyStatus } from './prospect/setCompanyStatus'
import { setField } from './prospect/setField'
import { stop } from './prospect/stop'
import { addReferral } from './followUp/addReferral'
import { bookMeeting } from './followUp/bookMeeting'
import { callBack } from './followUp/callBack'
import { cancelEmail } from './followUp/cancelEmail'
import { closeDeal } from './followUp/closeDeal'
import { notifyUsers } from './followUp/notifyUsers'
import { makeTask } from './followUp/makeTask'
import { openDeal } from './followUp/openDeal'

/** Every kind of action, in the order of the menu. */
const KINDS = {
  advance,
  goToStep,
  pauseCadence,
  exit,
  startCadence,
  moveStage,
  callBack,
  makeTask,
  bookMeeting,
  openDeal,
  closeDeal,
  cancelEmail,
  markNumber,
  stop,
  setCompanyStatus,
  addReferral,
  assign,
  rate,
  changeTag,
  changeList,
  setField,
  archive,
  notifyUsers,
} as const

type Kinds = typeof KINDS
export type ActionType = keyof Kinds
/** An action with its values, of any kind. */
export type Action = { [Type in ActionType]: z.infer<Kinds[Type]['schema']> }[ActionType]

const schemas = Object.values(KINDS).map((kind) => kind.schema)
/** What an action holds, by its type. */
export const actionSchema = z.discriminatedUnion(
  'type',
  schemas as [(typeof schemas)[number], ...(typeof schemas)[number][]],
) as unknown as z.ZodType<Action, Action>

/** What a kind of action is and does, by its type; undefined for one of an older version. */
export const ACTIONS: Readonly<Record<string, ActionKind<Action> | undefined>> = KINDS as unknown as Readonly<
  Record<ActionType, ActionKind<Action>>
>
export const ACTION_TYPES = Object.keys(KINDS) as ActionType[]

/** What a form can do with who sends it: what needs neither a call nor a cadence they are in. */
export const FORM_ACTIONS: readonly ActionType[] = ACTION_TYPES.filter(
  (type) => ACTIONS[type]!.mayWait || type === 'makeTask',
)

const kindOf = (action: ConfiguredAction) => ACTIONS[action.type]

/** Whether an action changes anyone but the prospect, or looks at their company. */
export function reachesCompany(action: ConfiguredAction): boolean {
  return kindOf(action)?.reachesCompany?.(action as Action) ?? false
}

/** The users of whom an action must know whose turn it is. */
export function turnsOf(action: ConfiguredAction): readonly Id[] {
  return kindOf(action)?.turnsOf?.(action as Action) ?? []
}

/** Whether an action changes tags, lists or custom fields of the prospect. */
export function changesRecord(action: ConfiguredAction): boolean {
  return kindOf(action)?.changesRecord ?? false
}

/**
 * Whether an action applies now: to this attempt, in this stage, in this cadence, to this prospect. Whether they fit
 * the filter of one that waits is asked when it is done.
 */
function applies(
  { context, prospect, enrollment }: ActionRun,
  stages: readonly string[],
  action: ActionTerms,
  waits: boolean,
): boolean {
  const attempts = attemptsOf(context.state, prospect.id)
  return (
    (action.fromAttempt === undefined || attempts >= action.fromAttempt) &&
    (action.beforeAttempt === undefined || attempts < action.beforeAttempt) &&
    (!action.inStages?.length || stages.some((id) => action.inStages!.includes(id))) &&
    (!action.noCadence || !openEnrollments(context.state, prospect.id).length) &&
    (!action.inCadences?.length || (enrollment !== null && action.inCadences.includes(enrollment.cadenceId))) &&
    (!action.where || waits || fitsNow(context.state, context.playbook, prospect.id, action.where))
  )
}

/** Does the actions in order, each on what the ones before left; one with a delay is scheduled instead. */
export function perform(run: ActionRun, actions: readonly ConfiguredAction[]): void {
  const { context } = run
  // The stages that are asked about are those before the outcome: its own actions may change it.
  const stages = [run.stageBefore, run.prospect.stageId]
  for (const action of actions) {
    const now: ActionRun = {
      ...run,
      prospect: context.state.prospect[run.prospect.id]!,
      enrollment: run.enrollment && context.state.enrollment[run.enrollment.id]!,
    }
    const kind = kindOf(action)
    const waits = action.after !== undefined && kind?.mayWait === true
    if (!applies(now, stages, action, waits)) continue
    if (!kind) {
      context.skip(`Unknown action “${action.type}”`)
    } else if (waits) {
      const why = kind.whyNotLater?.(now, action as Action)
      if (why) {
        context.skip(why)
        continue
      }
      const about = { outcomeId: run.outcome?.id ?? null, phoneId: run.phoneId, enrollment: run.enrollment }
      scheduleAction(context, now.prospect, action, about, run.cause)
    } else kind.apply(now, action as Action)
  }
}

/** What an action does, without when it applies. */
function describeAction(action: ConfiguredAction, names: ActionNames): string {
  return kindOf(action)?.describe(action as Action, names) ?? `Unknown action “${action.type}”`
}

/** What an action that waits will do, and the condition that is looked at then. */
export function describeScheduled(action: ConfiguredAction, names: ActionNames): string {
  return `${describeAction(action, names)}${action.where ? `, if ${condition(action.where, names)}` : ''}`
}

const condition = (where: Filter, names: ActionNames) => names.filterInWords?.(where) ?? 'its condition holds'

const list = (ids: readonly string[], names: Readonly<Record<string, string>>) =>
  ids.map((id) => `“${names[id] ?? 'deleted'}”`).join(' or ')

/** An action as a manager reads it: "Starts “After a voicemail” in 2 hours, before attempt 3". */
export function actionInWords(action: ConfiguredAction, names: ActionNames): string {
  const { fromAttempt, beforeAttempt, inStages, inCadences, noCadence, where, after } = action
  return [
    describeAction(action, names) + (after ? ` in ${lengthInWords(after)}` : ''),
    fromAttempt && `from attempt ${fromAttempt} on`,
    beforeAttempt && `before attempt ${beforeAttempt}`,
    inStages?.length && `in stage ${list(inStages, names.stages)}`,
    noCadence && 'if in no cadence',
    inCadences?.length && `in cadence ${list(inCadences, names.cadences)}`,
    where && `${after ? 'if then' : 'if'} ${condition(where, names)}`,
  ]
    .filter(Boolean)
    .join(', ')
}

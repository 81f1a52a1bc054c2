import type { Component } from 'vue'
import type { Action, ActionType } from '#core/actions/registry'
import type { ActionNames } from '#core/actions/kind/define'
import { MARKED } from '#core/actions/prospect/markNumber'
import { CHANNELS, COMPANY_STATUSES, PHONE_STATUSES, RATINGS, choicesOf } from '#core/enumerations'
import { inOrder, namedChoices, type Choice } from './choices'
import AssignFields from './AssignFields.vue'
import ChoiceField from './ChoiceField.vue'
import DealFields from './DealFields.vue'
import ExitFields from './ExitFields.vue'
import MemberFields from './MemberFields.vue'
import NotifyFields from './NotifyFields.vue'
import PauseFields from './PauseFields.vue'
import SetFieldFields from './SetFieldFields.vue'
import StageFields from './StageFields.vue'
import TaskFields from './TaskFields.vue'

/** How an action is edited: the component that asks for its values, and the values it has at first. */
interface ActionForm {
  fields?: Component
  /** What a component for several actions needs to know. */
  props?(names: ActionNames): Record<string, unknown>
  blank: object
}

/** A component that asks for one choice alone. */
const oneOf = (field: string, label: string, choices: (names: ActionNames) => Choice[], blank: object): ActionForm => ({
  fields: ChoiceField,
  props: (names) => ({ field, label, choices: choices(names) }),
  blank,
})
const WHOSE: Choice[] = [
  { value: 'owner', title: 'the prospect’s owner' },
  { value: 'caller', title: 'who logs the outcome' },
]
const nothing: ActionForm = { blank: {} }

/** Every kind of action; one that is missing here does not compile. */
export const ACTION_FORMS: Readonly<Record<ActionType, ActionForm>> = {
  advance: nothing,
  goToStep: oneOf('stepId', 'Step', (names) => namedChoices(names.steps), { stepId: '' }),
  pauseCadence: { fields: PauseFields, blank: { wait: { amount: 1, unit: 'weeks' } } },
  // Why they leave is counted: it is chosen, not assumed.
  exit: { fields: ExitFields, blank: { scope: 'cadence' } },
  startCadence: oneOf('cadenceId', 'Cadence', (names) => namedChoices(names.cadences), { cadenceId: '' }),
  moveStage: { fields: StageFields, props: (names) => ({ stages: inOrder(names.stages) }), blank: { to: '' } },
  callBack: nothing,
  makeTask: {
    fields: TaskFields,
    props: (names) => ({ owners: [...WHOSE, ...namedChoices(names.users)] }),
    blank: { title: 'Follow up', task: 'follow_up', wait: { amount: 7, unit: 'days' }, whose: 'owner' },
  },
  bookMeeting: nothing,
  openDeal: { fields: DealFields, blank: { likelihood: 20 } },
  closeDeal: oneOf(
    'as',
    'Result',
    () => [
      { value: 'won', title: 'won' },
      { value: 'lost', title: 'lost' },
    ],
    { as: 'lost' },
  ),
  cancelEmail: nothing,
  markNumber: oneOf('as', 'As', () => choicesOf(PHONE_STATUSES, MARKED), { as: 'wrong' }),
  stop: oneOf('channel', 'Stop', () => choicesOf(CHANNELS), { channel: 'call' }),
  setCompanyStatus: oneOf('to', 'As', () => choicesOf(COMPANY_STATUSES), { to: 'not_a_fit' }),
  addReferral: nothing,
  assign: {
    fields: AssignFields,
    props: (names) => ({ users: namedChoices(names.users) }),
    blank: { to: 'companyOwner' },
  },
  rate: oneOf('rating', 'Rating', () => [...choicesOf(RATINGS), { value: 'score', title: 'by score' }], {
    rating: 'hot',
  }),
  changeTag: {
    fields: MemberFields,
    props: (names) => ({ field: 'tagId', label: 'Tag', choices: namedChoices(names.tags) }),
    blank: { tagId: '', on: true },
  },
  changeList: {
    fields: MemberFields,
    props: (names) => ({ field: 'listId', label: 'Fixed list', choices: namedChoices(names.lists) }),
    blank: { listId: '', on: true },
  },
  archive: nothing,
  setField: { fields: SetFieldFields, blank: { fieldId: '', mode: 'set' } },
  notifyUsers: {
    fields: NotifyFields,
    props: (names) => ({ users: [{ value: 'owner', title: 'the prospect’s owner' }, ...namedChoices(names.users)] }),
    blank: { users: [] },
  },
}

/** An action of a type with the values it has at first. */
export function blankAction(type: ActionType): Action {
  return { type, ...ACTION_FORMS[type].blank } as Action
}

import type { Component } from 'vue'
import type { BulkAction } from '#shared/api/bulk'
import BulkActions from './actions/BulkActions.vue'
import BulkAssign from './actions/BulkAssign.vue'
import BulkCadence from './actions/BulkCadence.vue'
import BulkCompanyOwner from './actions/BulkCompanyOwner.vue'
import BulkEmail from './actions/BulkEmail.vue'
import BulkList from './actions/BulkList.vue'
import BulkPlan from './actions/BulkPlan.vue'
import BulkRate from './actions/BulkRate.vue'
import BulkSetField from './actions/BulkSetField.vue'
import BulkStage from './actions/BulkStage.vue'
import BulkStatus from './actions/BulkStatus.vue'
import BulkStop from './actions/BulkStop.vue'
import BulkTag from './actions/BulkTag.vue'

/** A bulk action in the dialog: what it is called there, and the component that asks for its values. */
interface BulkActionForm {
  title: string
  fields: Component
  /** Which action it is, for a component of two. */ props?: { type: BulkAction['type'] }
  words?: BulkWords
  /** For managers alone. */ managers?: true
}

/** What the dialog says of an action: over it, of those it is for, on its button, and when it is done. */
interface BulkWords {
  heading: string
  will: string
  button: string
  done: string
}
const CHANGE: BulkWords = { heading: 'Change', will: 'will change', button: 'Change', done: 'changed' }

/** The words of an action; of most it is a change. */
export const wordsOf = (type: BulkAction['type']): BulkWords => BULK_ACTIONS[type].words ?? CHANGE

/** Every bulk action, in the order of the menu. */
export const BULK_ACTIONS: Readonly<Record<BulkAction['type'], BulkActionForm>> = {
  enroll: { title: 'Enroll in a cadence', fields: BulkCadence, props: { type: 'enroll' } },
  plan: {
    title: 'Plan a to-do: call, email, text or task',
    fields: BulkPlan,
    words: { heading: 'Plan a to-do for', will: 'will get a to-do', button: 'Plan for', done: 'got a to-do' },
  },
  email: {
    title: 'Send email',
    fields: BulkEmail,
    words: { heading: 'Email to', will: 'will get it', button: 'Send to', done: 'will get it' },
  },
  assign: { title: 'Assign to', fields: BulkAssign },
  assignToCompanyOwner: { title: 'Assign to the company’s owner', fields: BulkCompanyOwner },
  tag: { title: 'Add a tag', fields: BulkTag, props: { type: 'tag' } },
  untag: { title: 'Remove a tag', fields: BulkTag, props: { type: 'untag' } },
  rate: { title: 'Rate', fields: BulkRate },
  stage: { title: 'Change stage', fields: BulkStage },
  work: { title: 'Set active, paused or archived', fields: BulkStatus },
  setField: { title: 'Set a field', fields: BulkSetField },
  putOn: { title: 'Add to a fixed list', fields: BulkList },
  leaveCadences: { title: 'Remove from cadences', fields: BulkCadence, props: { type: 'leaveCadences' } },
  stop: { title: 'Stop contacting', fields: BulkStop },
  actions: { title: 'Several actions, as outcomes do them', fields: BulkActions, managers: true },
}

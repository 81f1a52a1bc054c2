import type { Component } from 'vue'
import type { BulkAction } from '#shared/api/bulk'
import AssignFields from './actions/AssignFields.vue'
import CadenceFields from './actions/CadenceFields.vue'
import CompanyOwnerFields from './actions/CompanyOwnerFields.vue'
import EmailFields from './actions/EmailFields.vue'
import ListFields from './actions/ListFields.vue'
import PlanFields from './actions/PlanFields.vue'
import RateFields from './actions/RateFields.vue'
import SetFieldFields from './actions/SetFieldFields.vue'
import StageFields from './actions/StageFields.vue'
import StatusFields from './actions/StatusFields.vue'
import StopFields from './actions/StopFields.vue'
import TagFields from './actions/TagFields.vue'

/** A bulk action in the dialog: what it is called there, and the component that asks for its values. */
interface BulkActionForm {
  title: string
  fields: Component
  /** Which action it is, for a component of two. */ props?: { type: BulkAction['type'] }
  words?: BulkWords
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
  enroll: { title: 'Enroll in a cadence', fields: CadenceFields, props: { type: 'enroll' } },
  plan: {
    title: 'Plan a to-do: call, email, text or task',
    fields: PlanFields,
    words: { heading: 'Plan a to-do for', will: 'will get a to-do', button: 'Plan for', done: 'got a to-do' },
  },
  email: {
    title: 'Send email',
    fields: EmailFields,
    words: { heading: 'Email to', will: 'will get it', button: 'Send to', done: 'will get it' },
  },
  assign: { title: 'Assign to', fields: AssignFields },
  assignToCompanyOwner: { title: 'Assign to the company’s owner', fields: CompanyOwnerFields },
  tag: { title: 'Add a tag', fields: TagFields, props: { type: 'tag' } },
  untag: { title: 'Remove a tag', fields: TagFields, props: { type: 'untag' } },
  rate: { title: 'Rate', fields: RateFields },
  stage: { title: 'Change stage', fields: StageFields },
  work: { title: 'Set active, paused or archived', fields: StatusFields },
  setField: { title: 'Set a field', fields: SetFieldFields },
  putOn: { title: 'Add to a fixed list', fields: ListFields },
  leaveCadences: { title: 'Remove from cadences', fields: CadenceFields, props: { type: 'leaveCadences' } },
  stop: { title: 'Stop contacting', fields: StopFields },
}

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
}

/** Every bulk action, in the order of the menu. */
export const BULK_ACTIONS: Readonly<Record<BulkAction['type'], BulkActionForm>> = {
  enroll: { title: 'Enroll in a cadence', fields: CadenceFields, props: { type: 'enroll' } },
  plan: { title: 'Plan a call or task for each one’s owner', fields: PlanFields },
  email: { title: 'Send email', fields: EmailFields },
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

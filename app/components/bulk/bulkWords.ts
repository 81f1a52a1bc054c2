import { ACTIONS } from '#core/actions/registry'
import { TO_DO_KINDS } from '#core/enumerations'
import type { BulkAction, StoredBulkAction } from '#shared/api/bulk'

const FIELDS: Record<string, string> = {
  title: 'Job title',
  source: 'Source',
  city: 'City',
  region: 'State or region',
  postalCode: 'Postal code',
  country: 'Country',
  timeZone: 'Time zone',
}

/** What a bulk action does, in words; `object` names the stage, list, cadence, owners or custom field it is about. */
function actionInWords(action: BulkAction, object: string | null): string {
  switch (action.type) {
    case 'assign':
      return `Assigned to ${object ?? 'a former user'}${action.to.length > 1 ? ' in turn' : ''}`
    case 'assignToCompanyOwner':
      return 'Assigned to the company’s owner'
    case 'tag':
      return `Tag “${action.tag}” added`
    case 'untag':
      return `Tag “${action.tag}” removed`
    case 'rate':
      if (action.rating === 'score') return 'Rated by score'
      return action.rating ? `Rated ${action.rating}` : 'Rating cleared'
    case 'stage':
      return `Stage changed to ${object ?? 'a deleted stage'}`
    case 'work':
      return { active: 'Set active', paused: 'Paused', archived: 'Archived' }[action.status]
    case 'putOn':
      return `Added to ${object ? `“${object}”` : 'a deleted list'}`
    case 'setField': {
      const field = FIELDS[action.field] ?? object ?? 'Deleted field'
      return action.value === null || action.value === ''
        ? `${field} cleared`
        : `${field} set${typeof action.value === 'string' ? ` to ${action.value}` : ''}`
    }
    case 'enroll':
      return `Enrolled in ${object ? `“${object}”` : 'a deleted cadence'}`
    case 'leaveCadences':
      return action.cadenceId
        ? `Removed from ${object ? `“${object}”` : 'a deleted cadence'}`
        : 'Removed from all cadences'
    case 'stop':
      return { call: 'Do not call', email: 'Do not email', all: 'Do not contact' }[action.channel]
    case 'plan':
      return `${TO_DO_KINDS[action.task]} planned: ${action.title}`
    case 'actions':
      return action.actions.map(({ type }) => ACTIONS[type]!.label).join(', ')
    case 'email':
      return `Email: ${action.subject}`
  }
}

/** What a bulk action of the past was, in words. */
export function bulkInWords({ action, object }: { action: StoredBulkAction; object: string | null }): string {
  return action.type === 'undo' ? `Undo of “${actionInWords(action.of, object)}”` : actionInWords(action, object)
}

import { z } from 'zod'
import { COMPANY_STATUSES, valuesOf } from '../enumerations'
import { fieldNames, happensToCompany, ref } from './define'

/** What happens to a company: added, edited, merged, its status set. */
export const companyEvents = {
  companyAdded: happensToCompany('Company added', { importId: ref.optional() }),
  companyEdited: happensToCompany('Company edited', { fields: fieldNames, importId: ref.optional() }),
  companyStatusSet: happensToCompany(
    'Company status changed',
    { to: z.enum(valuesOf(COMPANY_STATUSES)) },
    { undoable: true },
  ),
  companyMerged: happensToCompany('Merged with a duplicate', { mergeId: ref, duplicateId: ref }),
  companyMergeUndone: happensToCompany('Merge undone', { mergeId: ref, duplicateId: ref }),
}

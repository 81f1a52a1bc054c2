import { z } from 'zod'
import { LIST_KINDS, valuesOf } from '../enumerations'
import { fieldNames, happensToList } from './define'

/** What happens to a list itself; who joins and leaves it are events of the prospects. */
export const listEvents = {
  listAdded: happensToList('List added', { kind: z.enum(valuesOf(LIST_KINDS)) }),
  listEdited: happensToList('List edited', { fields: fieldNames }),
  listDeleted: happensToList('List deleted'),
}

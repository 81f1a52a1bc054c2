import { z } from 'zod'
import { fieldNames, happens, ref, undoable } from './define'

/** What is known of people and companies: added, edited, imported, merged, put on lists, into call blocks, erased. */
export const recordEvents = {
  prospectAdded: happens('Added', { importId: ref.optional(), row: z.number().int().optional() }),
  prospectEdited: happens('Edited', {
    fields: fieldNames,
    importId: ref.optional(),
    row: z.number().int().optional(),
    companyMergeId: ref.optional(),
  }),
  tagsChanged: happens('Tags changed', { added: z.array(ref), removed: z.number().int() }),
  listJoined: happens('Added to a list', { listId: ref }),
  listLeft: happens('Removed from a list', { listId: ref }),
  blockJoined: happens('Added to a call block', { blockId: ref }),
  blockLeft: happens('Removed from a call block', { blockId: ref }),
  sentToDialer: happens('Sent to another dialer', { blockId: ref, exportId: ref }),
  blockSkipped: happens('Skipped in a call block', { blockId: ref }),
  blockPutBack: happens('Put back into a call block', { blockId: ref }),
  noteAdded: happens('Note', { noteId: ref }),
  noteEdited: happens('Note edited', { noteId: ref }),
  noteDeleted: happens('Note deleted', { noteId: ref }),
  pastTouches: happens('Past touches imported', { importId: ref, count: z.number().int() }),
  changedWithMany: happens('Bulk action', { actionId: ref, type: z.string().max(40) }),
  actionsRun: undoable('Bulk action', { actionId: ref }, { redact: { actions: 'ownRow' } }),
  merged: happens('Merged with a duplicate', { mergeId: ref, duplicateId: ref }),
  mergeUndone: happens('Merge undone', { mergeId: ref }),
  erased: happens('Erased on request'),
}

import { z } from 'zod'
import { fieldNames, happens, ref } from './define'

/** What happens to a form: edited by a manager, sent by someone who may not have been known. */
export const formEvents = {
  formAdded: happens('Form added', {}, { scope: 'form' }),
  formEdited: happens('Form edited', { fields: fieldNames }, { scope: 'form' }),
  formArchived: happens('Form archived', {}, { scope: 'form' }),
  formSent: happens('Form sent', { formId: ref, isNew: z.boolean() }, { scope: 'form', knot: 'reply' }),
}

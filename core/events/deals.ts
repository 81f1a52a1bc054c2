import { z } from 'zod'
import { fieldNames, happens, ref, undoable } from './define'

const terms = {
  value: z.number().nullable(),
  likelihood: z.number(),
  stageId: z.string().max(60).nullable(),
  expectedClose: z.string().max(10).nullable(),
}

/** Deals, from opened to won or lost. */
export const dealEvents = {
  dealOpened: undoable('Deal opened', { dealId: ref, deal: z.strictObject(terms), another: z.boolean() }),
  dealChanged: undoable('Deal changed', { dealId: ref, change: z.strictObject(terms).partial() }),
  dealClosed: undoable('Deal closed', {
    dealId: ref,
    result: z.enum(['won', 'lost']),
    value: z.number().nullable().optional(),
  }),
  dealEdited: happens('Deal edited', { dealId: ref, fields: fieldNames }),
}

import { z } from 'zod'
import { fieldNames, happensToDeal } from './define'

const terms = {
  value: z.number().nullable(),
  likelihood: z.number(),
  stageId: z.string().max(60).nullable(),
  expectedClose: z.string().max(10).nullable(),
}
const more = { undoable: true }

/** Deals, from opened to won or lost. */
export const dealEvents = {
  dealOpened: happensToDeal(
    'Deal opened',
    { deal: z.strictObject(terms), another: z.boolean() },
    { ...more, redact: { 'deal.name': 'ownRow' } },
  ),
  dealChanged: happensToDeal(
    'Deal changed',
    { change: z.strictObject(terms).partial() },
    { ...more, redact: { 'change.name': 'ownRow' } },
  ),
  dealClosed: happensToDeal(
    'Deal closed',
    { result: z.enum(['won', 'lost']), value: z.number().nullable().optional() },
    { ...more, redact: { reason: 'beside' } },
  ),
  dealEdited: happensToDeal('Deal edited', { fields: fieldNames }),
}

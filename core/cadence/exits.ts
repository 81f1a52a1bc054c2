import { z } from 'zod'
import { EXIT_REASONS, SCOPES, valuesOf, type ExitReason, type Scope } from '../enumerations'

/** What ends a cadence before its last step, and for whom: the prospect, or everyone at the company. */
export interface Exits {
  /** They reply; null: the cadence goes on, and its branches may decide by the answer. */
  replied: Scope | null
  booked: Scope
  /** A deal is opened with the prospect; null: the cadence goes on. */
  deal: Scope | null
  /** The prospect comes to one of these stages. */
  stages: { ids: string[]; scope: Scope }
  /** Their address bounces; null: the cadence goes on, with another address or without its emails. */
  bounced: Scope | null
  /** They send a form, again where one brought them here; null: the cadence goes on. */
  formSent: Scope | null
  /** Whether it ends where no email address that works is left. */
  noAddress: boolean
}

export const DEFAULT_EXITS: Exits = {
  replied: 'person',
  booked: 'company',
  deal: null,
  stages: { ids: [], scope: 'person' },
  bounced: 'person',
  formSent: null,
  noAddress: false,
}

const scope = z.enum(valuesOf(SCOPES))
export const exitsSchema = z.object({
  replied: scope.nullable().default(DEFAULT_EXITS.replied).describe('They reply'),
  booked: scope.default(DEFAULT_EXITS.booked).describe('A meeting is booked'),
  deal: scope.nullable().default(null).describe('A deal is opened'),
  stages: z
    .object({ ids: z.array(z.string().max(60)).max(50).default([]), scope: scope.default('person') })
    .default({ ids: [], scope: 'person' })
    .describe('They come to one of these stages'),
  bounced: scope.nullable().default(DEFAULT_EXITS.bounced).describe('Their email address bounces'),
  formSent: scope.nullable().default(null).describe('They send a form, again where one brought them here'),
  noAddress: z.boolean().default(false).describe('No email address that works is left'),
})

/** Whether an exit other than a reply or a meeting takes colleagues along. */
export function reachesColleagues({ deal, stages, bounced, formSent }: Exits): boolean {
  return [deal, bounced, formSent].includes('company') || (stages.ids.length > 0 && stages.scope === 'company')
}

/**
 * How many left for which reason, the most first: "unreached 62, a colleague booked 3"; empty where nobody did. Beyond
 * `most` reasons the rest is "other".
 */
export function exitsInWords(exits: Readonly<Record<string, number>>, most = Infinity): string {
  const sorted = Object.entries(exits).sort(([, a], [, b]) => b - a)
  const shown = sorted.length > most ? sorted.slice(0, most) : sorted
  const rest = sorted.slice(shown.length).reduce((sum, [, count]) => sum + count, 0)
  return [...shown, ...(rest ? [['other', rest] as const] : [])]
    .map(([exit, count]) => `${EXIT_REASONS[exit as ExitReason] ?? exit} ${count.toLocaleString('en-US')}`)
    .join(', ')
}

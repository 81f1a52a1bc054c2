import type { z } from 'zod'
import { STAGE_KINDS, type StageKind } from '#core/enumerations'
import type { stages } from '#shared/api/settings/stages'

export type StageSetting = z.output<typeof stages.response>['stages'][number]

/** A stage as it is edited: attempts as they are typed, empty for none. */
export interface StageDraft {
  kind: StageKind
  name: string
  attempts: string
  reason: boolean
  note: boolean
  fields: string[]
  /** Stages it can be reached from; empty for any. */
  from: string[]
  /** The stage it stands behind; null for the first place. */
  after: string | null
}

/** What becomes of prospects in a stage of each kind. */
export const KIND_MEANINGS: Readonly<Record<StageKind, string>> = {
  open: 'always has a next action',
  paused: 'comes back later',
  won: 'a customer',
  closed: 'nothing more is planned',
}
export const KIND_CHOICES = (Object.keys(STAGE_KINDS) as StageKind[]).map((value) => ({
  value,
  title: `${STAGE_KINDS[value]}: ${KIND_MEANINGS[value]}`,
}))

export function blankStage(kind: StageKind, after: string | null): StageDraft {
  return { kind, name: '', attempts: '', reason: false, note: false, fields: [], from: [], after }
}

export function draftOf({ kind, name, gate }: StageSetting, after: string | null): StageDraft {
  return {
    kind,
    name,
    attempts: String(gate.attempts ?? ''),
    reason: gate.reason ?? false,
    note: gate.note ?? false,
    fields: [...(gate.fields ?? [])],
    from: [...(gate.from ?? [])],
    after,
  }
}

/** The gate a draft describes; what it does not demand is left out. */
export function gateOf({ attempts, reason, note, fields, from }: StageDraft): StageSetting['gate'] {
  const count = Number(attempts || 0)
  return {
    ...(count && { attempts: count }),
    ...(reason && { reason }),
    ...(note && { note }),
    ...(fields.length && { fields }),
    ...(from.length && { from }),
  }
}

/** What a gate demands, in words: "3 attempts, a reason, job title". Empty where it demands nothing. */
export function gateInWords(gate: StageSetting['gate'], fieldName: (key: string) => string): string {
  const { attempts, reason, note, fields } = gate
  return [
    attempts && `${attempts} ${attempts === 1 ? 'attempt' : 'attempts'}`,
    reason && 'a reason',
    note && 'a note',
    ...(fields ?? []).map(fieldName),
  ]
    .filter(Boolean)
    .join(', ')
}

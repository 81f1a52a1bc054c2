import type { StageKind } from '../enumerations'
/** The usual fields a gate can demand, with how it speaks of them. */
export const GATE_FIELDS: Readonly<Record<string, string>> = {
  title: 'job title',
  email: 'email',
  phone: 'phone',
  companyId: 'company',
  country: 'country',
  region: 'region',
}

/** What a move into a stage demands. Everything absent is not demanded. */
export interface Gate {
  /** Stages one can come from; from any where it is absent or empty. */
  from?: readonly string[]
  /** Unanswered attempts made before, or a conversation. */
  attempts?: number
  /** A reason chosen or written. */
  reason?: boolean
  /** A note on the touch that moves. */
  note?: boolean
  /**
   * Fields that must be filled: keys of GATE_FIELDS, or of the custom fields of people and companies as filters
   * have them.
   */
  fields?: readonly string[]
}

export interface Stage {
  id: string
  name: string
  kind: StageKind
  position: number
  gate: Gate
  /** Kept for those who still stand in it; nobody is moved there any more. */
  archived?: boolean
}

/** What is known about the person at the moment of the move. */
export interface GateFacts {
  /** The stage they are in. */
  stageId: string
  attempts: number
  /** Whether there has been a conversation. */
  reached: boolean
  reason: string | null
  note: string | null
  fields: Readonly<Record<string, unknown>>
}

/**
 * One thing a gate still demands: of which field of a request it is, and the sentence. What a person lacks is `fields.`
 * and the field's key.
 */
export interface MissingRequirement {
  field: 'stage' | 'reason' | 'note' | `fields.${string}`
  message: string
}

/**
 * Which of the fields are not known, one entry each; `name` is what requires them, `customFields` as for
 * `missingRequirements`.
 */
export function missingFields(
  name: string,
  fields: readonly string[],
  known: GateFacts['fields'],
  customFields: Readonly<Record<string, string>> = {},
): MissingRequirement[] {
  return fields.flatMap((field) => {
    const label = GATE_FIELDS[field] ?? customFields[field]
    const value = known[field]
    const lacks = label && (value === null || value === undefined || value === '')
    return lacks ? [{ field: `fields.${field}` as const, message: `${name} requires “${label}”` }] : []
  })
}

/**
 * What the gate in front of `stage` still lacks, one entry each; empty when it is open. `customFields` names the team's
 * custom fields by their keys, `stages` its stages by their ids; what has been deleted is demanded no longer. A "no"
 * fills a field.
 */
export function missingRequirements(
  stage: Stage,
  facts: GateFacts,
  customFields: Readonly<Record<string, string>> = {},
  stages: Readonly<Record<string, Stage>> = {},
): MissingRequirement[] {
  const missing: MissingRequirement[] = []
  const { attempts, reason, note, fields } = stage.gate
  const from = (stage.gate.from ?? []).filter((id) => stages[id])
  if (from.length && !from.includes(facts.stageId)) {
    const names = from.map((id) => `“${stages[id]!.name}”`).join(' or ')
    const now = stages[facts.stageId] ? `, not from “${stages[facts.stageId]!.name}”` : ''
    missing.push({ field: 'stage', message: `${stage.name} can be reached only from ${names}${now}` })
  }
  if (attempts && !facts.reached && facts.attempts < attempts) {
    missing.push({
      field: 'stage',
      message: `${stage.name} requires ${attempts} attempts or a conversation; ${facts.attempts} so far`,
    })
  }
  if (reason && !facts.reason?.trim()) missing.push({ field: 'reason', message: `${stage.name} requires a reason` })
  if (note && !facts.note?.trim()) missing.push({ field: 'note', message: `${stage.name} requires a note` })
  return [...missing, ...missingFields(stage.name, fields ?? [], facts.fields, customFields)]
}

/**
 * The stages that no allowed move leads to from the stage new prospects begin in (the first open one), by id: nobody
 * can ever stand there without an override.
 */
export function unreachableStages(stages: readonly Stage[]): Set<string> {
  const used = stages.filter((stage) => !stage.archived)
  const start = [...used].sort((a, b) => a.position - b.position).find((stage) => stage.kind === 'open')
  const known = new Set(used.map((stage) => stage.id))
  const reached = new Set(start ? [start.id] : [])
  for (let before = -1; before < reached.size;) {
    before = reached.size
    for (const { id, gate } of used) {
      const from = (gate.from ?? []).filter((one) => known.has(one))
      // Where all stages that lead here are archived, nothing is demanded.
      if (!from.length || from.some((one) => reached.has(one) && one !== id)) reached.add(id)
    }
  }
  return new Set(used.filter((stage) => !reached.has(stage.id)).map((stage) => stage.id))
}

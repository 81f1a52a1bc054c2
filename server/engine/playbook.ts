import type { StageKind, StepKind } from '#core/enumerations'
import type { ConfiguredAction, Outcome, Playbook } from '#core/engine/state/playbook'
import { DEFAULT_ENTRY } from '#core/cadence/entry'
import { DEFAULT_EXITS } from '#core/cadence/exits'
import type { Cadence, Step, Way } from '#core/cadence/steps'
import type { Wait } from '#core/cadence/wait'
import type { QueuePriority } from '#core/queue/priorities'
import type { Gate } from '#core/stage/gate'
import { EVERYTHING, readFilterWorld } from '../db/filterWorld'
import type { Db } from '../db/pool'
import { holidayTables } from './holidays'
import { firstRow, sql } from '../db/sql'

/** A step `s` as the engine reads it. */
const STEP = sql`
  json_build_object(
    'id', s.id, 'position', s.position, 'kind', s.kind, 'amount', s.wait_amount, 'unit', s.wait_unit,
    'at', s.wait_at, 'review', s.review,
    'name', s.name, 'requiresPrevious', s.requires_previous, 'wayId', s.way_id, 'ways', s.ways,
    'endsEarly', s.ends_early
  )
`

const PLAYBOOK_SQL = sql`
  select
    (select row_to_json(t) from team t) as team,
    (select coalesce(json_agg(s order by s.position), '[]') from stages s) as stages,
    (select coalesce(json_agg(o), '[]') from outcomes o) as outcomes,
    (
      select coalesce(json_object_agg(f.id, json_build_object('id', f.id, 'name', f.name, 'actions', f.actions)), '{}')
      from forms f
    ) as forms,
    (
      select coalesce(json_agg(c), '[]')
      from (
        select
          c.*,
          (
            select json_build_object(
              'hours', json_build_object('days', w.days, 'from', w.opens, 'to', w.closes), 'clock', w.clock,
              'holidays', w.holidays
            )
            from sending_windows w
            where w.id = c.window_id
          ) as "window",
          (
            select coalesce(
              json_agg(${STEP} order by s.position), '[]'
            )
            from cadence_steps s
            where s.cadence_id = c.id and s.archived_at is null
          ) as steps,
          (
            select coalesce(json_agg(v.steps), '[]')
            from (
              select json_agg(${STEP} order by s.position) as steps
              from cadence_steps s
              where s.cadence_id = c.id
                and s.of_version in (
                  select h.of_version
                  from enrollments e
                    join cadence_steps h on h.id = e.step_id
                  where e.cadence_id = c.id and e.status <> 'ended'
                )
              group by s.of_version
            ) v
          ) as earlier,
          (
            select coalesce(json_object_agg(s.id, s.followed_by), '{}')
            from cadence_steps s
            where s.cadence_id = c.id and s.archived_at is not null
          ) as deleted
        from cadences c
        where c.status <> 'archived'
          or exists (select from enrollments e where e.cadence_id = c.id and e.status <> 'ended')
      ) c
    ) as cadences,
    (
      select coalesce(
        json_object_agg(case f.of when 'company' then 'company:' else '' end || 'custom:' || f.id, f.name), '{}'
      )
      from custom_fields f
      where f.of <> 'deal'
    ) as "customFields",
    (
      select coalesce(json_object_agg(n.id, n.name), '{}')
      from (
        select id::text, name from tags
        union all
        select id::text, name from lists where kind = 'fixed'
        union all
        select id::text, name from users where active
        union all
        select id, name from deal_stages
      ) n
    ) as names,
    (select coalesce(json_object_agg(id, time_zone), '{}') from users where active) as "userZones",
    (
      select json_build_object(
        'hours', json_build_object('days', days, 'from', opens, 'to', closes), 'clock', clock, 'holidays', holidays
      )
      from sending_windows
      where is_default
    ) as "defaultWindow"
`

interface TeamRow {
  playbook_version: number
  country: string
  currency: string
  call_days: number[]
  call_from: number
  call_to: number
  fallback_days: number
  retry_days: number
  counts_uncalled: boolean
  attempt_notes: boolean
  call_qualities: string[]
  attempts_allowed: number
  queue_priorities: QueuePriority[]
  first_touch_from: string | null
  first_touch_to: string | null
  answered_stage: string | null
}
interface StepRow {
  id: string
  position: number
  kind: StepKind
  amount: number
  unit: Wait['unit']
  at: number | null
  review: boolean
  name: string
  requiresPrevious: boolean
  wayId: string | null
  ways: Way[]
  endsEarly: boolean
}
interface CadenceRow {
  id: string
  name: string
  status: Cadence['status']
  cold: boolean
  email_type: Cadence['emailType']
  window: Cadence['window']
  entry: Partial<Cadence['entry']>
  exits: Partial<Cadence['exits']>
  deleted: Record<string, string | null>
  earlier: StepRow[][]
  steps: StepRow[]
  after_last: ConfiguredAction[]
}
interface OutcomeRow {
  id: string
  name: string
  position: number
  counts_as: Outcome['countsAs']
  used_for: Outcome['usedFor']
  required_inputs: Outcome['requiredInputs']
  required_fields: Outcome['requiredFields']
  reasons: string[]
  leaves_message: boolean
  actions: Outcome['actions']
  archived_at: string | null
}

let held: { playbook: Playbook } | null = null

/** What the team decided, as this process last read it; null when it has not yet. */
export function latestPlaybook(): Playbook | null {
  return held?.playbook ?? null
}

interface TeamRow {
  team: TeamRow
  stages: { id: string; name: string; kind: StageKind; position: number; gate: Gate; archived_at: string | null }[]
  outcomes: OutcomeRow[]
  forms: Playbook['forms']
  cadences: CadenceRow[]
  customFields: Playbook['customFields']
  names: Playbook['names']
  userZones: Playbook['userZones']
  defaultWindow: Playbook['defaultWindow']
}

/** What the team decided, as of `version`: from memory when that is the one held, else read again. */
export async function playbook(client: Db, version: number): Promise<Playbook> {
  if (held?.playbook.version === version) return held.playbook
  const [row, { fields: filterFields, timeZone }] = await Promise.all([
    firstRow(client.query<TeamRow>({ name: 'playbook', text: PLAYBOOK_SQL })),
    readFilterWorld(client, EVERYTHING),
  ])
  const { team, stages, outcomes, forms, cadences, customFields, names, userZones, defaultWindow } = row!
  held = {
    playbook: {
      version: team.playbook_version,
      customFields,
      forms,
      names,
      filterFields,
      timeZone,
      currency: team.currency,
      country: team.country,
      userZones,
      defaultWindow,
      stages: Object.fromEntries(
        stages.map(({ archived_at: archivedAt, ...stage }) => [stage.id, { ...stage, archived: archivedAt !== null }]),
      ),
      outcomes: Object.fromEntries(outcomes.map((outcome) => [outcome.id, readOutcome(outcome)])),
      cadences: Object.fromEntries(cadences.map(readCadence).map((cadence) => [cadence.id, cadence])),
      afterLast: Object.fromEntries(
        cadences.flatMap(({ id, after_last: after }) => (after.length ? [[id, after]] : [])),
      ),
      holidays: holidayTables(),
      callHours: { days: team.call_days, from: team.call_from, to: team.call_to },
      fallbackDays: team.fallback_days,
      retryDays: team.retry_days,
      countsUncalled: team.counts_uncalled,
      attemptNotes: team.attempt_notes,
      callQualities: team.call_qualities,
      attemptsAllowed: team.attempts_allowed,
      queuePriorities: team.queue_priorities,
      firstTouch:
        team.first_touch_from && team.first_touch_to ? { from: team.first_touch_from, to: team.first_touch_to } : null,
      answered: team.answered_stage,
    },
  }
  return held.playbook
}

function readOutcome(row: OutcomeRow): Outcome {
  const { counts_as: countsAs, required_inputs: requiredInputs, archived_at: archivedAt, ...outcome } = row
  const { required_fields: requiredFields, leaves_message: leavesMessage, used_for: usedFor, ...rest } = outcome
  return { ...rest, countsAs, usedFor, requiredInputs, requiredFields, leavesMessage, archived: archivedAt !== null }
}

function readStep(step: StepRow, cadenceId: string): Step {
  return {
    id: step.id,
    cadenceId,
    position: step.position,
    kind: step.kind,
    wait: { amount: step.amount, unit: step.unit, at: step.at },
    review: step.review,
    name: step.name,
    requiresPrevious: step.requiresPrevious,
    wayId: step.wayId,
    ways: step.ways,
    endsEarly: step.endsEarly,
  }
}

function readCadence(row: CadenceRow): Cadence {
  return {
    id: row.id,
    name: row.name,
    status: row.status,
    cold: row.cold,
    emailType: row.email_type ?? null,
    window: row.window,
    exits: { ...DEFAULT_EXITS, ...row.exits },
    entry: { ...DEFAULT_ENTRY, ...row.entry },
    deleted: row.deleted,
    steps: row.steps.map((step) => readStep(step, row.id)),
    earlier: row.earlier.map((steps) => steps.map((step) => readStep(step, row.id))),
  }
}

/** Reads the playbook that holds now. */
export async function currentPlaybook(client: Db): Promise<Playbook> {
  const row = await firstRow(client.query<{ playbook_version: number }>(sql`select playbook_version from team`))
  return playbook(client, row!.playbook_version)
}

/** Says that something in the playbook has changed: every process reads it again before its next reaction. */
export async function playbookChanged(client: Db): Promise<void> {
  await client.query(sql`update team set playbook_version = playbook_version + 1`)
}

import { randomUUID } from 'node:crypto'
import type { Ask, Consequence } from '#core/engine/playbook'
import type { Gate, StageKind } from '#core/stage/gate'
import type { Db } from '../db/pool'
import { playbookChanged } from '../engine/playbook'
import { firstRow, sql } from '../db/sql'

const STAGES: { id: string; name: string; kind: StageKind; gate?: Gate }[] = [
  { id: 'new', name: 'New', kind: 'open' },
  { id: 'attempting', name: 'Attempting', kind: 'open' },
  { id: 'in_conversation', name: 'In conversation', kind: 'open' },
  { id: 'meeting_set', name: 'Meeting set', kind: 'open' },
  { id: 'customer', name: 'Customer', kind: 'won' },
  { id: 'unreached', name: 'Unreached', kind: 'paused', gate: { attempts: 3 } },
  { id: 'nurture', name: 'Nurture', kind: 'paused' },
  { id: 'lost', name: 'Lost', kind: 'paused', gate: { reason: true } },
  { id: 'not_a_fit', name: 'Not a fit', kind: 'closed', gate: { attempts: 3, reason: true } },
  { id: 'stopped', name: 'Stopped', kind: 'closed', gate: { reason: true } },
]

interface FirstOutcome {
  name: string
  countsAs: 'attempt' | 'conversation' | 'none'
  asks?: Ask[]
  reasons?: string[]
  consequences: Consequence[]
}

// Common practice, no published source: three unanswered attempts park a person, the lost come back to nurture.
const unreached: Consequence[] = [
  { do: 'advance', beforeAttempt: 3 },
  { do: 'exit', scope: 'cadence', as: 'unreached', fromAttempt: 3 },
  { do: 'moveStage', to: 'unreached', onlyFrom: ['new', 'attempting'], fromAttempt: 3 },
]
const OUTCOMES: FirstOutcome[] = [
  { name: 'No answer', countsAs: 'attempt', consequences: unreached },
  { name: 'Busy', countsAs: 'attempt', consequences: unreached },
  { name: 'Left voicemail', countsAs: 'attempt', consequences: unreached },
  {
    name: 'Call back at a time',
    countsAs: 'conversation',
    asks: ['callBackAt'],
    consequences: [
      { do: 'markNumber', as: 'correct' },
      { do: 'moveStage', to: 'in_conversation', onlyFrom: ['new', 'attempting', 'unreached', 'nurture', 'lost'] },
      { do: 'callBack' },
    ],
  },
  {
    name: 'Meeting booked',
    countsAs: 'conversation',
    asks: ['meeting'],
    consequences: [
      { do: 'markNumber', as: 'correct' },
      { do: 'exit', scope: 'company', as: 'meeting_booked' },
      { do: 'moveStage', to: 'meeting_set' },
      { do: 'setCompanyStatus', to: 'in_deal' },
      { do: 'bookMeeting' },
      { do: 'openDeal', likelihood: 15 },
    ],
  },
  {
    name: 'Not interested',
    countsAs: 'conversation',
    asks: ['reason'],
    reasons: ['No need', 'No budget', 'Bad timing', 'Uses somebody else', 'Gave none'],
    consequences: [
      { do: 'markNumber', as: 'correct' },
      { do: 'exit', scope: 'all', as: 'not_interested' },
      { do: 'moveStage', to: 'lost' },
      { do: 'makeTask', title: 'Ask again', days: 45 },
    ],
  },
  {
    name: 'Not the right person',
    countsAs: 'conversation',
    asks: ['referral'],
    consequences: [
      { do: 'exit', scope: 'all', as: 'wrong_person' },
      { do: 'moveStage', to: 'not_a_fit' },
      { do: 'addReferral' },
    ],
  },
  {
    name: 'Company not a fit',
    countsAs: 'conversation',
    consequences: [
      { do: 'setCompanyStatus', to: 'not_a_fit' },
      { do: 'exit', scope: 'company', as: 'not_a_fit' },
      { do: 'moveStage', to: 'not_a_fit', scope: 'company' },
    ],
  },
  { name: 'Wrong number', countsAs: 'none', consequences: [{ do: 'markNumber', as: 'wrong' }, { do: 'advance' }] },
  {
    name: 'Do not call',
    countsAs: 'conversation',
    consequences: [
      { do: 'markNumber', as: 'do_not_call' },
      { do: 'stop', channel: 'all' },
      { do: 'moveStage', to: 'stopped' },
    ],
  },
]

/** Writes the stages and outcomes a new team starts with, unless it has some. */
export async function seedPlaybook(client: Db): Promise<void> {
  const row = await firstRow(client.query<{ some: boolean }>(sql`select exists (select from stages) as some`))
  if (row!.some) return
  await client.query(
    sql`
      insert into stages (id, name, kind, position, gate)
      select r.id, r.name, r.kind, r.position, r.gate
      from jsonb_to_recordset($1::jsonb) as r(id text, name text, kind text, position int, gate jsonb)
    `,
    [JSON.stringify(STAGES.map((stage, position) => ({ gate: {}, ...stage, position })))],
  )
  await client.query(
    sql`
      insert into outcomes (id, name, position, counts_as, asks, reasons, consequences)
      select
        r.id, r.name, r.position, r.counts_as, array(select jsonb_array_elements_text(r.asks)),
        array(select jsonb_array_elements_text(r.reasons)), r.consequences
      from jsonb_to_recordset($1::jsonb) as r(
        id uuid, name text, position int, counts_as text, asks jsonb, reasons jsonb, consequences jsonb
      )
    `,
    [
      JSON.stringify(
        OUTCOMES.map(({ countsAs, ...outcome }, position) => ({
          asks: [],
          reasons: [],
          ...outcome,
          id: randomUUID(),
          position,
          counts_as: countsAs,
        })),
      ),
    ],
  )
  await client.query(
    sql`
      update team
      set first_touch_from = 'new', first_touch_to = 'attempting', answered_stage = 'in_conversation'
    `,
  )
  await playbookChanged(client)
}

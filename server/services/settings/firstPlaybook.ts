import type { CountsAs, LineResult, OutcomeUse, RequiredInput, StageKind, WaitUnit } from '#core/enumerations'
import type { Action } from '#core/actions/registry'
import type { Gate } from '#core/stage/gate'
import { newId } from '#shared/newId'
import type { Db } from '../../db/pool'
import { playbookChanged } from '../../engine/playbook'
import { firstRow, sql } from '../../db/sql'

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
  countsAs: CountsAs
  /** Where not given: calls, and what was said there also in a reply. */
  usedFor?: OutcomeUse[]
  requiredInputs?: RequiredInput[]
  reasons?: string[]
  actions: Action[]
}

/** The cadence of one email that goes after a voicemail, for prospects who are in no other. */
const AFTER_VOICEMAIL = {
  id: newId(),
  name: 'After a voicemail',
  subject: 'My voicemail',
  body: [
    'Hi {{ first_name | default: "there" }},',
    'I just left you a voicemail. Is a short call this week or next better for you? ' +
      'Two lines are enough, or call me back when it suits you.',
    '{{ signature }}',
  ].join('\n\n'),
}

const later = (title: string, amount: number, unit: WaitUnit, task: 'follow_up' | 'call' | 'task' = 'follow_up') =>
  ({ type: 'makeTask', title, task, wait: { amount, unit }, whose: 'owner' }) as const

// Common practice, no published source: three unanswered attempts park a person, the lost come back to nurture.
const unreached: Action[] = [
  { type: 'advance', beforeAttempt: 3 },
  { type: 'exit', scope: 'cadence', as: 'unreached', fromAttempt: 3 },
  { type: 'moveStage', to: 'unreached', onlyFrom: ['new', 'attempting'], fromAttempt: 3 },
]
/** What is logged by itself where a call of several lines ends without a person. */
const LINE_OUTCOMES: Record<LineResult, string> = {
  no_answer: 'No answer',
  busy: 'Busy',
  rejected: 'No answer',
  voicemail: 'No answer',
  message_left: 'Left voicemail',
  not_in_service: 'Wrong number',
}
const OUTCOMES: FirstOutcome[] = [
  { name: 'No answer', countsAs: 'attempt', actions: unreached },
  { name: 'Busy', countsAs: 'attempt', actions: unreached },
  {
    name: 'Left voicemail',
    countsAs: 'attempt',
    actions: [
      ...unreached,
      // Common practice, no published source: an email that refers to a voicemail goes about two hours after it.
      {
        type: 'startCadence',
        cadenceId: AFTER_VOICEMAIL.id,
        after: { amount: 2, unit: 'hours' },
        noCadence: true,
      },
    ],
  },
  {
    name: 'Call back at a time',
    countsAs: 'conversation',
    requiredInputs: ['callBackAt'],
    actions: [
      { type: 'markNumber', as: 'correct' },
      { type: 'moveStage', to: 'in_conversation', onlyFrom: ['new', 'attempting', 'unreached', 'nurture', 'lost'] },
      { type: 'callBack' },
    ],
  },
  {
    name: 'Meeting booked',
    countsAs: 'conversation',
    requiredInputs: ['meeting'],
    actions: [
      { type: 'markNumber', as: 'correct' },
      { type: 'exit', scope: 'company', as: 'meeting_booked' },
      { type: 'moveStage', to: 'meeting_set' },
      { type: 'setCompanyStatus', to: 'in_deal' },
      { type: 'bookMeeting' },
      { type: 'openDeal', likelihood: 15 },
    ],
  },
  {
    name: 'Not interested',
    countsAs: 'conversation',
    requiredInputs: ['reason'],
    reasons: ['No need', 'No budget', 'Bad timing', 'Uses someone else', 'Gave none'],
    actions: [
      { type: 'markNumber', as: 'correct' },
      { type: 'exit', scope: 'all', as: 'not_interested' },
      { type: 'moveStage', to: 'lost' },
      later('Ask again', 45, 'days'),
    ],
  },
  {
    name: 'Not the right person',
    countsAs: 'conversation',
    usedFor: ['call', 'reply', 'task'],
    requiredInputs: ['referral'],
    actions: [
      { type: 'exit', scope: 'all', as: 'wrong_person' },
      { type: 'moveStage', to: 'not_a_fit' },
      { type: 'addReferral' },
    ],
  },
  {
    name: 'Company not a fit',
    countsAs: 'conversation',
    usedFor: ['call', 'reply', 'task'],
    actions: [
      { type: 'setCompanyStatus', to: 'not_a_fit' },
      { type: 'exit', scope: 'company', as: 'not_a_fit' },
      { type: 'moveStage', to: 'not_a_fit', scope: 'company' },
    ],
  },
  { name: 'Wrong number', countsAs: 'none', actions: [{ type: 'markNumber', as: 'wrong' }, { type: 'advance' }] },
  {
    name: 'Do not call',
    countsAs: 'conversation',
    actions: [
      { type: 'markNumber', as: 'do_not_call' },
      { type: 'stop', channel: 'all' },
      { type: 'moveStage', to: 'stopped' },
    ],
  },
  { name: 'Gatekeeper', countsAs: 'attempt', actions: unreached },
  {
    name: 'Call again tomorrow',
    countsAs: 'attempt',
    actions: [
      { type: 'pauseCadence', wait: { amount: 1, unit: 'business_days' } },
      later('Call again', 1, 'business_days', 'call'),
    ],
  },
  {
    name: 'Interested',
    countsAs: 'conversation',
    actions: [
      { type: 'markNumber', as: 'correct' },
      { type: 'exit', scope: 'all', as: 'replied' },
      { type: 'moveStage', to: 'in_conversation', onlyFrom: ['new', 'attempting', 'unreached', 'nurture', 'lost'] },
      later('They are interested: agree on a meeting', 1, 'business_days', 'call'),
    ],
  },
  {
    name: 'Not now',
    countsAs: 'conversation',
    requiredInputs: ['reason'],
    reasons: ['No budget this year', 'Busy season', 'Under contract', 'Other priorities'],
    actions: [
      { type: 'markNumber', as: 'correct' },
      { type: 'exit', scope: 'all', as: 'not_interested' },
      { type: 'moveStage', to: 'nurture' },
      later('Ask again', 13, 'weeks'),
    ],
  },
  {
    name: 'Uses a competitor',
    countsAs: 'conversation',
    requiredInputs: ['reason'],
    actions: [
      { type: 'markNumber', as: 'correct' },
      { type: 'exit', scope: 'all', as: 'not_interested' },
      { type: 'moveStage', to: 'nurture' },
      later('Ask how it goes with their supplier', 26, 'weeks'),
    ],
  },
  {
    name: 'No number found',
    countsAs: 'none',
    usedFor: ['call', 'task'],
    actions: [{ type: 'advance' }, later('Find a number', 1, 'business_days', 'task')],
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
      insert into cadences (id, name, status, created_at)
      values ($1, $2, 'active', world_now())
    `,
    [AFTER_VOICEMAIL.id, AFTER_VOICEMAIL.name],
  )
  await client.query(
    sql`
      insert into cadence_steps (id, cadence_id, position, kind, wait_amount, wait_unit, name, subject, body)
      values ($1, $2, 0, 'email', 0, 'hours', 'Email after the voicemail', $3, $4)
    `,
    [newId(), AFTER_VOICEMAIL.id, AFTER_VOICEMAIL.subject, AFTER_VOICEMAIL.body],
  )
  await client.query(
    sql`
      insert into outcomes (id, name, position, counts_as, required_inputs, reasons, actions, leaves_message, used_for)
      select
        r.id, r.name, r.position, r.counts_as, array(select jsonb_array_elements_text(r.required_inputs)),
        array(select jsonb_array_elements_text(r.reasons)), r.actions, r.name = 'Left voicemail',
        array(select jsonb_array_elements_text(r.used_for))
      from jsonb_to_recordset($1::jsonb) as r(
        id uuid, name text, position int, counts_as text, required_inputs jsonb, reasons jsonb, actions jsonb,
        used_for jsonb
      )
    `,
    [
      JSON.stringify(
        OUTCOMES.map(({ countsAs, usedFor, requiredInputs = [], ...outcome }, position) => ({
          required_inputs: requiredInputs,
          reasons: [],
          ...outcome,
          id: newId(),
          position,
          counts_as: countsAs,
          used_for: usedFor ?? (countsAs === 'conversation' ? ['call', 'reply'] : ['call']),
        })),
      ),
    ],
  )
  await client.query(
    sql`
      insert into line_outcomes (result, outcome_id)
      select r.result, o.id
      from jsonb_each_text($1::jsonb) as r(result, name)
        join outcomes o on o.name = r.name
    `,
    [JSON.stringify(LINE_OUTCOMES)],
  )
  await client.query(
    sql`
      update team
      set first_touch_from = 'new', first_touch_to = 'attempting', answered_stage = 'in_conversation'
    `,
  )
  await playbookChanged(client)
}

/**
 * Every closed set of values that rows, events and requests may hold, with the label of each value as it stands within
 * a sentence. Types, request schemas, choices on screens and the database's checks follow from these.
 */

export const ROLES = { rep: 'rep', caller: 'caller', manager: 'manager', admin: 'admin' } as const
export type Role = keyof typeof ROLES

/** How a user reads dates and times, each as an example. */
export const DATE_STYLES = {
  us: 'Fri, Nov 27, 2:30 PM',
  us_24: 'Fri, Nov 27, 14:30',
  day_first: 'Fri 27 Nov, 14:30',
} as const
export type DateStyle = keyof typeof DATE_STYLES

/** What an API key may do. */
export const KEY_RIGHTS = { read: 'Read', write: 'Read and write', manage: 'Everything you may do' } as const
export type KeyRights = keyof typeof KEY_RIGHTS

export const PROSPECT_STATUSES = { active: 'active', paused: 'paused', archived: 'archived' } as const
export type ProspectStatus = keyof typeof PROSPECT_STATUSES

export const RATINGS = { hot: 'hot', warm: 'warm', cold: 'cold' } as const
export type Rating = keyof typeof RATINGS

/** In order of strictness: of two, the later one holds. */
export const COMPANY_STATUSES = {
  open: 'open',
  in_deal: 'in a deal',
  customer: 'customer',
  not_a_fit: 'not a fit',
  do_not_contact: 'do not contact',
} as const
export type CompanyStatus = keyof typeof COMPANY_STATUSES

export const PHONE_KINDS = { work: 'work', mobile: 'mobile', home: 'home', other: 'other' } as const
export type PhoneKind = keyof typeof PHONE_KINDS

export const PHONE_STATUSES = {
  unverified: 'unverified',
  correct: 'correct',
  wrong: 'wrong',
  disconnected: 'disconnected',
  do_not_call: 'do not call',
} as const
export type PhoneStatus = keyof typeof PHONE_STATUSES

export const EMAIL_ADDRESS_STATUSES = { ok: 'ok', bounced: 'bounced' } as const
export type EmailAddressStatus = keyof typeof EMAIL_ADDRESS_STATUSES

/** What a stop, or what someone asked for no more of, reaches. */
export const CHANNELS = { call: 'calls', email: 'email', all: 'calls and email' } as const
export type Channel = keyof typeof CHANNELS

/** Whether a number may be sent texts, by what its person said. */
export const TEXT_CONSENTS = {
  unknown: 'not asked',
  given: 'agreed',
  declined: 'wants no texts',
  stopped: 'said STOP',
} as const
export type TextConsent = keyof typeof TEXT_CONSENTS

export const TEXT_STATUSES = {
  queued: 'on its way',
  sent: 'sent',
  delivered: 'delivered',
  failed: 'not delivered',
  received: 'received',
} as const
export type TextStatus = keyof typeof TEXT_STATUSES

/** Kinds of email a prospect takes or has opted out of. */
export const EMAIL_TYPES = { one_to_one: 'one to one', marketing: 'marketing', requested: 'requested' } as const
export type EmailType = keyof typeof EMAIL_TYPES

/** Texts that are kept to be used again: whole emails, and pieces that are put into one. */
export const TEMPLATE_KINDS = { email: 'email', snippet: 'snippet' } as const
export type TemplateKind = keyof typeof TEMPLATE_KINDS

export const EMAIL_KINDS = { step: 'step', personal: 'personal', invitation: 'invitation', bulk: 'bulk' } as const
export type EmailKind = keyof typeof EMAIL_KINDS

export const EMAIL_STATUSES = {
  queued: 'queued',
  sending: 'sending',
  sent: 'sent',
  unconfirmed: 'delivery unknown',
  failed: 'failed',
  held: 'blocked',
  cancelled: 'canceled',
} as const
export type EmailStatus = keyof typeof EMAIL_STATUSES

export const INCOMING_KINDS = {
  reply: 'reply',
  automatic: 'automatic reply',
  bounce: 'bounce',
  delayed: 'delay',
  receipt: 'receipt',
  complaint: 'complaint',
} as const
export type IncomingKind = keyof typeof INCOMING_KINDS

/** `open` and `paused` people always have a next action. */
export const STAGE_KINDS = { open: 'open', paused: 'paused', won: 'won', closed: 'closed' } as const
export type StageKind = keyof typeof STAGE_KINDS

/** What a call counts as, by its outcome. */
export const COUNTS_AS = { attempt: 'an attempt', conversation: 'a conversation', none: 'nothing' } as const
export type CountsAs = keyof typeof COUNTS_AS

/** What work an outcome can be logged on. */
export const OUTCOME_USES = { call: 'calls', reply: 'replies', task: 'to-dos' } as const
export type OutcomeUse = keyof typeof OUTCOME_USES

/** What an outcome can ask for before it can be logged. */
export const REQUIRED_INPUTS = {
  callBackAt: 'a time',
  meeting: 'the meeting',
  reason: 'the reason',
  referral: 'the right person',
  note: 'a note',
} as const
export type RequiredInput = keyof typeof REQUIRED_INPUTS

export const CADENCE_STATUSES = { draft: 'draft', active: 'active', paused: 'paused', archived: 'archived' } as const
export type CadenceStatus = keyof typeof CADENCE_STATUSES

/** Why the people of a call block are called. */
export const CALL_PURPOSES = {
  first_contact: 'first contact',
  follow_up: 'follow-up',
  service: 'service',
  event: 'event',
} as const
export type CallPurpose = keyof typeof CALL_PURPOSES

/** How far someone is in a call block. */
export const BLOCK_STATES = {
  to_call: 'to call',
  tried: 'no answer',
  message: 'message left',
  reached: 'reached',
  meeting: 'meeting',
  skipped: 'skipped',
} as const
export type BlockState = keyof typeof BLOCK_STATES

/** How far a call block is. */
export const BLOCK_STATUSES = {
  not_begun: 'not begun',
  under_way: 'under way',
  done: 'done',
  closed: 'closed',
} as const
export type BlockStatus = keyof typeof BLOCK_STATUSES

/** In which order the people of a call block are called. */
export const BLOCK_SORTS = {
  list: 'in the order they were added',
  score: 'highest score first',
  untried: 'longest untouched first',
  likely: 'most likely to answer now first',
} as const
export type BlockSort = keyof typeof BLOCK_SORTS

/** How a user calls. */
export const DIALERS = { dialer: 'The dialer that is connected', own_phone: 'My own phone' } as const
export type DialerKind = keyof typeof DIALERS

/** What a call came to that no person answered, where the exchange found it out. */
export const LINE_RESULTS = {
  no_answer: 'no answer',
  busy: 'busy',
  rejected: 'call rejected',
  voicemail: 'voicemail, no message left',
  message_left: 'voicemail, message left',
  not_in_service: 'number not in service',
} as const
export type LineResult = keyof typeof LINE_RESULTS

/** How a call of several lines stands. */
export const LINE_STATUSES = {
  dialing: 'dialing',
  ringing: 'ringing',
  connected: 'on the line',
  completed: 'spoken to',
  abandoned: 'answered, no caller free',
  ...LINE_RESULTS,
  failed: 'not dialed',
} as const
export type LineStatus = keyof typeof LINE_STATUSES

/** How a result stands that another dialer sent. */
export const CALL_RESULT_STATUSES = {
  waiting: 'being logged',
  logged: 'logged',
  known: 'logged before',
  unreadable: 'not readable',
} as const
export type CallResultStatus = keyof typeof CALL_RESULT_STATUSES

/** What a call block is to bring. */
export const BLOCK_TARGETS = { call: 'calls', conversation: 'conversations', meeting: 'meetings' } as const
export type BlockTarget = keyof typeof BLOCK_TARGETS

/** What callers of a call block are paid for. */
export const PAY_BASES = {
  none: 'not paid by results',
  call: 'call',
  conversation: 'conversation',
  meeting: 'meeting',
} as const
export type PayBasis = keyof typeof PAY_BASES

/** By whose clock a sending window opens and closes. */
export const WINDOW_CLOCKS = { prospect: 'the prospect’s', sender: 'the sender’s' } as const
export type WindowClock = keyof typeof WINDOW_CLOCKS

/** On whose holidays a sending window is closed. */
export const WINDOW_HOLIDAYS = { prospect: 'the prospect’s', team: 'the team’s', none: 'none' } as const
export type WindowHolidays = keyof typeof WINDOW_HOLIDAYS

/** What puts an email off when it asks for its moment. */
export const EMAIL_WAITS = {
  window: 'the sending window to open',
  cap: 'room in the daily cap',
  domain: 'room in the cap for its receiving domain',
  spacing: 'the pause between two emails',
} as const
export type EmailWait = keyof typeof EMAIL_WAITS

/** What an email in the queue, or one that stays there, waits for. */
export const QUEUE_REASONS = {
  ...EMAIL_WAITS,
  time: 'its time',
  paused: 'its cadence to be resumed',
  review: 'its rep to review it',
  detail: 'a missing detail',
  unknown: 'a check: it may have gone out',
  retry: 'another try: the mail server did not take it',
} as const
export type QueueReason = keyof typeof QUEUE_REASONS

export const STEP_KINDS = {
  email: 'email',
  call: 'call',
  text: 'text',
  social: 'social touch',
  task: 'task',
  meeting: 'meeting',
  branch: 'branch',
} as const
export type StepKind = keyof typeof STEP_KINDS

export const WAIT_UNITS = {
  minutes: 'minutes',
  hours: 'hours',
  days: 'days',
  business_days: 'business days',
  weeks: 'weeks',
} as const
export type WaitUnit = keyof typeof WAIT_UNITS

/** How far an exit or a change of stage reaches: one person, or everyone at their company. */
export const SCOPES = { person: 'person', company: 'company' } as const
export type Scope = keyof typeof SCOPES

/** How an action that waits for its time stands; skipped ones could not be done when their time came. */
export const DELAYED_ACTION_STATUSES = {
  waiting: 'scheduled',
  done: 'done',
  skipped: 'skipped',
  cancelled: 'canceled',
} as const
export type DelayedActionStatus = keyof typeof DELAYED_ACTION_STATUSES

/** What users are notified of. */
export const NOTIFICATION_KINDS = {
  reply: 'reply',
  handed_over: 'assigned to you',
  calls_assigned: 'calls assigned to you',
  call_block: 'call block',
  outcome: 'outcome',
  email_failed: 'email not sent',
  missed_call: 'missed call',
  form_sent: 'form sent',
  unknown_text: 'text from an unknown number',
  bulk: 'bulk action',
  import: 'import',
} as const
export type NotificationKind = keyof typeof NOTIFICATION_KINDS

export const ENROLLMENT_STATUSES = { waiting: 'waiting', active: 'active', paused: 'paused', ended: 'ended' } as const
export type EnrollmentStatus = keyof typeof ENROLLMENT_STATUSES

export const EXIT_REASONS = {
  finished: 'finished',
  replied: 'replied',
  meeting_booked: 'meeting booked',
  colleague_replied: 'a colleague replied',
  colleague_booked: 'a colleague booked',
  stopped: 'stopped',
  bounced: 'bounced',
  not_interested: 'not interested',
  not_a_fit: 'not a fit',
  unreached: 'unreached',
  wrong_person: 'wrong person',
  removed: 'removed',
  deal_opened: 'deal opened',
  stage_reached: 'stage reached',
  no_address: 'no address left',
  form_sent: 'form sent again',
} as const
export type ExitReason = keyof typeof EXIT_REASONS

export const TASK_KINDS = {
  first_contact: 'first contact',
  call: 'call',
  task: 'task',
  call_back: 'call back',
  reply: 'reply',
  follow_up: 'follow-up',
  email: 'email to send',
  text: 'text',
  social: 'social touch',
  meeting: 'meeting',
  check_mail: 'email to check',
  meeting_result: 'meeting result',
} as const
export type TaskKind = keyof typeof TASK_KINDS

/** How a call that came in stands; `over` once it was answered and has ended. */
export const INCOMING_CALL_STATUSES = {
  ringing: 'ringing',
  answered: 'answered',
  over: 'over',
  missed: 'missed',
} as const

/**
 * What became of the recording of a call: `stopped` by the rep, `ready` at the exchange, `lost` where it could not be
 * fetched.
 */
export const CALL_RECORDINGS = {
  on: 'on',
  stopped: 'stopped',
  ready: 'ready',
  saved: 'saved',
  lost: 'lost',
  deleted: 'deleted',
} as const

/** What recorded sound may be. */
export const AUDIO_TYPES = { 'audio/wav': 'WAV', 'audio/ogg': 'OGG' } as const
export type AudioType = keyof typeof AUDIO_TYPES

/** The kinds of to-do that are planned by hand, for one prospect or for many. */
export const TO_DO_KINDS = { call: 'Call', email: 'Email', text: 'Text', task: 'To-do' } as const
export type ToDoKind = keyof typeof TO_DO_KINDS

/** How work of the queue is done, to choose by. */
export const QUEUE_CHANNELS = { call: 'Calls', email: 'Emails', text: 'Texts', task: 'To-dos' } as const
export type QueueChannel = keyof typeof QUEUE_CHANNELS

/** The orders in which a rep may work the queue. */
export const QUEUE_SORTS = {
  recommended: 'Recommended order',
  score: 'Highest score first',
  due: 'Longest overdue first',
  closing: 'Calling hours end soonest',
  likely: 'Most likely to answer now',
} as const
export type QueueSort = keyof typeof QUEUE_SORTS

export const TASK_STATUSES = { open: 'open', done: 'done', cancelled: 'canceled' } as const
export type TaskStatus = keyof typeof TASK_STATUSES

export const TOUCH_KINDS = {
  call: 'call',
  text: 'text',
  email: 'email',
  reply: 'reply',
  meeting: 'meeting',
  social: 'social touch',
  task: 'task',
  visit: 'page visit',
} as const
export type TouchKind = keyof typeof TOUCH_KINDS

export const MEETING_STATUSES = {
  booked: 'booked',
  cancelled: 'canceled',
  held: 'held',
  no_show: 'no-show',
} as const
export type MeetingStatus = keyof typeof MEETING_STATUSES

/** What came of a meeting, as a rep says it. */
export const MEETING_RESULTS = { held: 'Held', qualified: 'Held, and qualified', no_show: 'No-show' } as const
export type MeetingResult = keyof typeof MEETING_RESULTS

export const DEAL_STATUSES = { open: 'open', won: 'won', lost: 'lost' } as const
export type DealStatus = keyof typeof DEAL_STATUSES

export const CUSTOM_FIELD_OWNERS = { prospect: 'person', company: 'company', deal: 'deal' } as const
export type CustomFieldOwner = keyof typeof CUSTOM_FIELD_OWNERS

export const CUSTOM_FIELD_KINDS = {
  text: 'Text',
  number: 'Number',
  money: 'Money',
  date: 'Date',
  yesNo: 'Yes or no',
  choice: 'One choice',
  choices: 'Several choices',
  link: 'Link',
} as const
export type CustomFieldKind = keyof typeof CUSTOM_FIELD_KINDS

export const LIST_KINDS = { live: 'live', fixed: 'fixed' } as const
export type ListKind = keyof typeof LIST_KINDS

export const LIST_VIEWS = { people: 'people', companies: 'companies', map: 'map' } as const
export type ListView = keyof typeof LIST_VIEWS

export const TOUCH_UNITS = { days: 'days', weeks: 'weeks', months: 'months' } as const
export type TouchUnit = keyof typeof TOUCH_UNITS

export const GOAL_STATUSES = { overdue: 'overdue', due_soon: 'due soon', on_track: 'on track' } as const
export type GoalStatus = keyof typeof GOAL_STATUSES

export const BULK_STATUSES = { waiting: 'waiting', running: 'running', done: 'done' } as const
export type BulkStatus = keyof typeof BULK_STATUSES

export const IMPORT_STATUSES = {
  uploading: 'uploading',
  uploaded: 'columns to map',
  checking: 'validating',
  checked: 'ready to import',
  writing: 'importing',
  done: 'done',
  failed: 'failed',
} as const
export type ImportStatus = keyof typeof IMPORT_STATUSES

/** Which comes first in 1/5/2026. */
export const DATE_ORDERS = { month: 'month first', day: 'day first' } as const
export type DateOrder = keyof typeof DATE_ORDERS

/** What an import does with people who are prospects already. */
export const EXISTING_ACTIONS = { skip: 'Skip', fill: 'Fill blanks only', overwrite: 'Overwrite' } as const
export type ExistingAction = keyof typeof EXISTING_ACTIONS

/**
 * What says where someone is: they or a file gave the zone, the address decides it, the number's area does, or nothing
 * does.
 */
export const TIME_ZONE_SOURCES = { given: 'set by hand', address: 'address', number: 'number', guess: 'guess' } as const
export type TimeZoneSource = keyof typeof TIME_ZONE_SOURCES

/** The values of a set, in order, as schemas take them. */
export function valuesOf<Value extends string>(labels: Readonly<Record<Value, string>>): [Value, ...Value[]] {
  return Object.keys(labels) as [Value, ...Value[]]
}

/** The values of a set as choices: all of them, or those named. */
export function choicesOf<Value extends string>(
  labels: Readonly<Record<Value, string>>,
  values: readonly Value[] = valuesOf(labels),
): { value: Value; title: string }[] {
  return values.map((value) => ({ value, title: labels[value] }))
}

/** A label at the start of a sentence or alone. */
export function capitalized(label: string): string {
  return label.charAt(0).toUpperCase() + label.slice(1)
}

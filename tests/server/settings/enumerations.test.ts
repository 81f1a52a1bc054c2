import { describe, expect, it } from 'vitest'
import * as enumerations from '../../../core/enumerations'
import { rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

withTeam()

/** Which set each checked column holds; null for what only the database and its own module know. */
const COLUMNS: Record<string, Readonly<Record<string, string>> | null> = {
  'company_aliases.kind': null,
  'scheduled_actions.kind': null,
  'system_emails.kind': null,
  'users.role': enumerations.ROLES,
  'api_keys.rights': enumerations.KEY_RIGHTS,
  'stages.kind': enumerations.STAGE_KINDS,
  'outcomes.counts_as': enumerations.COUNTS_AS,
  'outcomes.used_for': enumerations.OUTCOME_USES,
  'custom_fields.of': enumerations.CUSTOM_FIELD_OWNERS,
  'custom_fields.kind': enumerations.CUSTOM_FIELD_KINDS,
  'call_blocks.purpose': enumerations.CALL_PURPOSES,
  'call_blocks.sort': enumerations.BLOCK_SORTS,
  'users.calls_with': enumerations.DIALERS,
  'calls.made_with': enumerations.DIALERS,
  'call_blocks.target_of': enumerations.BLOCK_TARGETS,
  'call_blocks.pay_basis': enumerations.PAY_BASES,
  'sending_windows.clock': enumerations.WINDOW_CLOCKS,
  'sending_windows.holidays': enumerations.WINDOW_HOLIDAYS,
  'email_messages.waits_for': enumerations.EMAIL_WAITS,
  'users.date_style': enumerations.DATE_STYLES,
  'companies.status': enumerations.COMPANY_STATUSES,
  'prospects.status': enumerations.PROSPECT_STATUSES,
  'prospects.rating': enumerations.RATINGS,
  'prospects.time_zone_from': enumerations.TIME_ZONE_SOURCES,
  'prospects.email_types': enumerations.EMAIL_TYPES,
  'email_addresses.status': enumerations.EMAIL_ADDRESS_STATUSES,
  'phones.kind': enumerations.PHONE_KINDS,
  'phones.status': enumerations.PHONE_STATUSES,
  'cadences.status': enumerations.CADENCE_STATUSES,
  'cadence_steps.kind': enumerations.STEP_KINDS,
  'cadence_steps.wait_unit': enumerations.WAIT_UNITS,
  'enrollments.status': enumerations.ENROLLMENT_STATUSES,
  'notifications.kind': enumerations.NOTIFICATION_KINDS,
  'delayed_actions.status': enumerations.DELAYED_ACTION_STATUSES,
  'phones.text_consent': enumerations.TEXT_CONSENTS,
  'text_messages.direction': null,
  'text_messages.status': enumerations.TEXT_STATUSES,
  'cadences.email_type': enumerations.EMAIL_TYPES,
  'email_templates.kind': enumerations.TEMPLATE_KINDS,
  'email_messages.kind': enumerations.EMAIL_KINDS,
  'email_messages.email_type': enumerations.EMAIL_TYPES,
  'email_messages.status': enumerations.EMAIL_STATUSES,
  'replies.kind': enumerations.INCOMING_KINDS,
  'incoming_calls.status': enumerations.INCOMING_CALL_STATUSES,
  'voicemail_messages.media_type': null,
  'call_recordings.media_type': null,
  'calls.recording': enumerations.CALL_RECORDINGS,
  'calls.line_status': enumerations.LINE_STATUSES,
  'call_results.status': enumerations.CALL_RESULT_STATUSES,
  'line_outcomes.result': enumerations.LINE_RESULTS,
  'tasks.kind': enumerations.TASK_KINDS,
  'tasks.status': enumerations.TASK_STATUSES,
  'touches.kind': enumerations.TOUCH_KINDS,
  'touches.counts_as': enumerations.COUNTS_AS,
  'meetings.status': enumerations.MEETING_STATUSES,
  'deals.status': enumerations.DEAL_STATUSES,
  'lists.kind': enumerations.LIST_KINDS,
  'lists.default_view': enumerations.LIST_VIEWS,
  'lists.touch_unit': enumerations.TOUCH_UNITS,
  'bulk_actions.status': enumerations.BULK_STATUSES,
  'imports.status': enumerations.IMPORT_STATUSES,
  'imports.date_order': enumerations.DATE_ORDERS,
  'imports.known_action': enumerations.EXISTING_ACTIONS,
}

describe('the values that a column may hold', () => {
  it('are those of its enumeration, in the database as in the program', async () => {
    const checks = await rows<{ table: string; definition: string }>(sql`
      select conrelid::regclass::text as table, pg_get_constraintdef(oid) as definition
      from pg_constraint
      where contype = 'c' and connamespace = 'public'::regnamespace
    `)
    const held: Record<string, string[]> = {}
    for (const { table, definition } of checks) {
      const listed = /^CHECK \(\((\w+) = ANY \(ARRAY\[(.*?)\]\)\)\)$/.exec(definition)
      const array = /^CHECK \(\((\w+) <@ '\{(.*?)\}'::text\[\]\)\)$/.exec(definition)
      const values = listed ? [...listed[2]!.matchAll(/'(\w+)'/g)].map((match) => match[1]!) : array?.[2]!.split(',')
      if (values) held[`${table}.${(listed ?? array)![1]}`] = values.sort()
    }
    expect(Object.keys(held).filter((column) => !(column in COLUMNS))).toEqual([])
    for (const [column, labels] of Object.entries(COLUMNS)) {
      if (labels) expect([column, held[column]]).toEqual([column, Object.keys(labels).sort()])
    }
  })
  it('have labels that say which is which', () => {
    const sets = Object.entries(enumerations).filter(([name]) => name === name.toUpperCase())
    expect(sets.length).toBeGreaterThan(30)
    for (const [name, labels] of sets) {
      const said = Object.values(labels as Record<string, string>)
      expect([name, new Set(said).size]).toEqual([name, said.length])
    }
  })
})

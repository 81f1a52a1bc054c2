import { fullName, type Entities, type EntityName } from '#core/engine/state/engineState'
import { nameKey } from '#core/text/names'
import { sql } from '../db/sql'

/** How a field of an entity is kept: its column, and the type its value has on the way there. */
type Kind = 'uuid' | 'text' | 'int' | 'boolean' | 'instant' | 'money' | 'day' | 'json'
interface Table<E extends EntityName> {
  table: string
  /** Whether its rows are known by what they connect, and have no id of their own (see `linkId`). */
  link?: boolean
  columns: { [F in Exclude<keyof Entities[E], 'id'>]: readonly [column: string, kind: Kind] }
  /**
   * Columns that follow from others when a row is new: column, the SQL for it over the recordset r, and what a row must
   * bring for that.
   */
  derived?: Record<string, { sql: string; from?: (row: Entities[E]) => string }>
}

/** The defaults of the custom fields, for a row that is new. */
function defaultsSql(of: 'prospect' | 'deal'): string {
  return sql`(
    select coalesce(jsonb_object_agg(f.id, f.default_value), '{}')
    from custom_fields f
    where f.of = '${of}' and f.default_value is not null
  )`
}

/** Rows with a table of their own; values of custom fields lie in a column of their prospect (see apply). */
export type StoredEntity = Exclude<EntityName, 'customValue'>

/** Where each kind of row the engine changes is kept. The one place that pairs core's names with the database's. */
export const TABLES: { [E in StoredEntity]: Table<E> } = {
  company: { table: 'companies', columns: { name: ['name', 'text'], status: ['status', 'text'] } },
  prospect: {
    table: 'prospects',
    columns: {
      companyId: ['company_id', 'uuid'],
      ownerId: ['owner_id', 'uuid'],
      stageId: ['stage_id', 'text'],
      firstName: ['first_name', 'text'],
      lastName: ['last_name', 'text'],
      title: ['title', 'text'],
      timeZone: ['time_zone', 'text'],
      timeZoneFrom: ['time_zone_from', 'text'],
      country: ['country', 'text'],
      region: ['region', 'text'],
      stopCall: ['stop_call', 'boolean'],
      stopEmail: ['stop_email', 'boolean'],
      rating: ['rating', 'text'],
      ratedByScore: ['rated_by_score', 'boolean'],
      status: ['status', 'text'],
    },
    derived: {
      name_key: { sql: 'r.name_key', from: (row) => nameKey(fullName(row)) },
      created_at: { sql: 'world_now()' },
      custom: { sql: defaultsSql('prospect') },
    },
  },
  emailAddress: {
    table: 'email_addresses',
    columns: {
      prospectId: ['prospect_id', 'uuid'],
      address: ['address', 'text'],
      status: ['status', 'text'],
      position: ['position', 'int'],
    },
  },
  phone: {
    table: 'phones',
    columns: {
      prospectId: ['prospect_id', 'uuid'],
      number: ['number', 'text'],
      kind: ['kind', 'text'],
      status: ['status', 'text'],
      textConsent: ['text_consent', 'text'],
      position: ['position', 'int'],
    },
  },
  enrollment: {
    table: 'enrollments',
    columns: {
      prospectId: ['prospect_id', 'uuid'],
      cadenceId: ['cadence_id', 'uuid'],
      stepId: ['step_id', 'uuid'],
      status: ['status', 'text'],
      dueAt: ['due_at', 'instant'],
      byId: ['by_id', 'uuid'],
      startedAt: ['started_at', 'instant'],
      endedAt: ['ended_at', 'instant'],
      exit: ['exit', 'text'],
    },
  },
  meeting: {
    table: 'meetings',
    columns: {
      prospectId: ['prospect_id', 'uuid'],
      userId: ['user_id', 'uuid'],
      title: ['title', 'text'],
      bookedAt: ['booked_at', 'instant'],
      startAt: ['start_at', 'instant'],
      endAt: ['end_at', 'instant'],
      timeZone: ['time_zone', 'text'],
      status: ['status', 'text'],
      sequence: ['sequence', 'int'],
      place: ['place', 'text'],
    },
  },
  emailMessage: {
    table: 'email_messages',
    columns: {
      prospectId: ['prospect_id', 'uuid'],
      kind: ['kind', 'text'],
      enrollmentId: ['enrollment_id', 'uuid'],
      stepId: ['step_id', 'uuid'],
      meetingId: ['meeting_id', 'uuid'],
      emailAddressId: ['email_address_id', 'uuid'],
      senderId: ['sender_id', 'uuid'],
      status: ['status', 'text'],
      sendAt: ['send_at', 'instant'],
      sentAt: ['sent_at', 'instant'],
      openedAt: ['opened_at', 'instant'],
      clickedAt: ['clicked_at', 'instant'],
    },
  },
  task: {
    table: 'tasks',
    columns: {
      prospectId: ['prospect_id', 'uuid'],
      ownerId: ['owner_id', 'uuid'],
      kind: ['kind', 'text'],
      priority: ['priority', 'int'],
      title: ['title', 'text'],
      dueAt: ['due_at', 'instant'],
      status: ['status', 'text'],
      doneAt: ['done_at', 'instant'],
      enrollmentId: ['enrollment_id', 'uuid'],
      stepId: ['step_id', 'uuid'],
      messageId: ['message_id', 'uuid'],
      timeZone: ['time_zone', 'text'],
    },
  },
  touch: {
    table: 'touches',
    columns: {
      prospectId: ['prospect_id', 'uuid'],
      kind: ['kind', 'text'],
      at: ['at', 'instant'],
      userId: ['user_id', 'uuid'],
      outcomeId: ['outcome_id', 'uuid'],
      countsAs: ['counts_as', 'text'],
      reason: ['reason', 'text'],
      quality: ['quality', 'text'],
      succeeded: ['succeeded', 'boolean'],
      phoneId: ['phone_id', 'uuid'],
      enrollmentId: ['enrollment_id', 'uuid'],
      stepId: ['step_id', 'uuid'],
      messageId: ['message_id', 'uuid'],
    },
  },
  deal: {
    table: 'deals',
    columns: {
      companyId: ['company_id', 'uuid'],
      prospectId: ['prospect_id', 'uuid'],
      ownerId: ['owner_id', 'uuid'],
      name: ['name', 'text'],
      status: ['status', 'text'],
      likelihood: ['likelihood', 'int'],
      openedAt: ['opened_at', 'instant'],
      value: ['value', 'money'],
      stageId: ['deal_stage_id', 'text'],
      expectedClose: ['expected_close', 'day'],
      closedAt: ['closed_at', 'instant'],
      closeReason: ['close_reason', 'text'],
    },
    derived: { custom: { sql: defaultsSql('deal') } },
  },
  delayedAction: {
    table: 'delayed_actions',
    columns: {
      prospectId: ['prospect_id', 'uuid'],
      action: ['action', 'json'],
      runAt: ['run_at', 'instant'],
      status: ['status', 'text'],
      doneAt: ['done_at', 'instant'],
      outcomeId: ['outcome_id', 'uuid'],
      phoneId: ['phone_id', 'uuid'],
      enrollmentId: ['enrollment_id', 'uuid'],
    },
  },
  turn: { table: 'assignment_turns', columns: { number: ['number', 'int'] } },
  notification: {
    table: 'notifications',
    columns: {
      userId: ['user_id', 'uuid'],
      kind: ['kind', 'text'],
      prospectId: ['prospect_id', 'uuid'],
      refId: ['ref_id', 'uuid'],
      byId: ['by_id', 'uuid'],
      at: ['at', 'instant'],
    },
  },
  prospectTag: {
    table: 'prospect_tags',
    link: true,
    columns: { prospectId: ['prospect_id', 'uuid'], tagId: ['tag_id', 'uuid'] },
  },
  listMember: {
    table: 'list_members',
    link: true,
    columns: { prospectId: ['prospect_id', 'uuid'], listId: ['list_id', 'uuid'] },
  },
}

const SQL_TYPES: Readonly<Record<Kind, string>> = {
  uuid: 'uuid',
  text: 'text',
  int: 'int',
  boolean: 'boolean',
  instant: 'bigint',
  money: 'numeric',
  day: 'date',
  json: 'jsonb',
}
/** How a column of a kind is read; others as they are. */
const READ: Partial<Record<Kind, (column: string) => string>> = {
  instant: (column) => `ms(${column})`,
  money: (column) => `${column}::float8`,
  day: (column) => `to_char(${column}, 'YYYY-MM-DD')`,
}
type AnyColumns = Record<string, readonly [string, Kind]>

/** The select list that reads an entity's row as core names it; `alias` is the table's. */
export function selectList(entity: StoredEntity, alias: string): string {
  const { link } = TABLES[entity]
  const columns = Object.entries(TABLES[entity].columns as AnyColumns).map(
    ([field, [column, kind]]) => `${READ[kind]?.(`${alias}.${column}`) ?? `${alias}.${column}`} as "${field}"`,
  )
  return (link ? columns : [`${alias}.id`, ...columns]).join(', ')
}

/** Makes a parameter of an array of the type and gives what stands for it in the statement. */
export type ArrayParameter = (type: string, values: readonly unknown[]) => string

type Row = Readonly<Record<string, unknown>>

/** A value as it is sent: JSON that is not yet text becomes text. */
function asParameter(type: string, value: unknown): unknown {
  return type === 'jsonb' && value !== null && typeof value === 'object' ? JSON.stringify(value) : (value ?? null)
}

/**
 * Rows as a table `r` in a statement, one array to a column: planned for few rows, whatever their number, and read
 * without going through JSON.
 */
export function recordset(
  rows: readonly Row[],
  types: Readonly<Record<string, string>>,
  array: ArrayParameter,
): string {
  const columns = Object.entries(types)
  return `unnest(${columns
    .map(([field, type]) =>
      array(
        type,
        rows.map((row) => asParameter(type, row[field])),
      ),
    )
    .join(', ')}) as r(${columns.map(([field]) => `"${field}"`).join(', ')})`
}

/** The statement that adds rows to an entity's table. */
export function insertSql(entity: StoredEntity, rows: readonly Row[], array: ArrayParameter): string {
  const { table, link, columns, derived = {} } = TABLES[entity] as Table<StoredEntity>
  const fields = Object.entries(columns as AnyColumns)
  const brought = Object.entries(derived as Record<string, { sql: string; from?: (row: Row) => string }>).filter(
    ([, { from }]) => from,
  )
  const full = brought.length
    ? rows.map((row) => ({ ...row, ...Object.fromEntries(brought.map(([column, { from }]) => [column, from!(row)])) }))
    : rows
  const types = Object.fromEntries([
    ...(link ? [] : [['id', 'uuid']]),
    ...fields.map(([field, [, kind]]) => [field, SQL_TYPES[kind]]),
    ...brought.map(([column]) => [column, 'text']),
  ])
  const values = fields.map(([field, [, kind]]) => (kind === 'instant' ? `from_ms(r."${field}")` : `r."${field}"`))
  const own = link ? [] : ['id']
  const names = [...own, ...fields.map(([, [column]]) => column), ...Object.keys(derived)]
  return sql`
    insert into ${table} (${names.join(', ')})
    select ${[...own.map((name) => `r.${name}`), ...values, ...Object.values(derived).map(({ sql }) => sql)].join(', ')}
    from ${recordset(full, types, array)}${link ? ' on conflict do nothing' : ''}
  `
}

/** The statement that removes rows from an entity's table. */
export function deleteSql(entity: StoredEntity, rows: readonly Row[], array: ArrayParameter): string {
  const { table, link, columns } = TABLES[entity] as Table<StoredEntity>
  const ids = (field: string) =>
    array(
      'uuid',
      rows.map((row) => row[field]),
    )
  if (!link) return sql`delete from ${table} where id = any(${ids('id')})`
  const fields = Object.entries(columns as AnyColumns)
  return sql`
    delete from ${table} t
    using unnest(${fields.map(([field]) => ids(field)).join(', ')}) as r(${fields.map(([, [column]]) => column).join(', ')})
    where ${fields.map(([, [column]]) => `t.${column} = r.${column}`).join(' and ')}
  `
}

/** The statement that changes the given fields of rows: every one holds id and all the fields. */
export function updateSql(
  entity: StoredEntity,
  fields: readonly string[],
  rows: readonly Row[],
  array: ArrayParameter,
): string {
  const { table } = TABLES[entity]
  const columns = TABLES[entity].columns as AnyColumns
  const types = Object.fromEntries([['id', 'uuid'], ...fields.map((field) => [field, SQL_TYPES[columns[field]![1]]])])
  const sets = fields.map((field) => {
    const [column, kind] = columns[field]!
    return `${column} = ${kind === 'instant' ? `from_ms(r."${field}")` : `r."${field}"`}`
  })
  if (entity === 'prospect' || entity === 'company') sets.push('version = t.version + 1')
  return sql`
    update ${table} t
    set ${sets.join(', ')}
    from ${recordset(rows, types, array)}
    where t.id = r.id
  `
}

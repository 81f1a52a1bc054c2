import { DAY } from '../instant'
import type { Field } from './fields'
import { nextActionSql } from './nextAction'
import type { Translation } from './sqlTranslation'

/** One value as an expression, or how any of several rows is asked after. */
export type Source =
  | { is: 'value'; sql: string; type?: 'uuid' }
  | { is: 'column'; sql: string }
  /** `known` is false where it may be null. */
  | { is: 'flag'; sql: string; known?: false }
  /** Values of rows, all of which count. */
  | { is: 'rows'; from: string; value: string; type: 'uuid' | 'text' }
  /** How many rows there are, in several places together. */
  | { is: 'count'; from: readonly string[] }
  | { is: 'json'; sql: string }
  | { is: 'lists' }
  /** Where the person is, or where they have no address their company is: a place of the gazetteer. */
  | { is: 'place' }

/** A moment that lies in a column of its own, compared as it is, so that its index helps. */
const column = (name: string): Source => ({ is: 'column', sql: name })

/** For how many days someone is new (common practice, no published source). */
const NEW_DAYS = 7

const value = (sql: string): Source => ({ is: 'value', sql })

const key = (sql: string): Source => ({ is: 'value', sql, type: 'uuid' })

/** The deals of a person and of their company, each once. */
const DEALS = [
  'from deals d where d.prospect_id = p.id',
  'from deals d where d.company_id = p.company_id and d.prospect_id <> p.id',
]

const deals = (status: string): Source => ({
  is: 'count',
  from: DEALS.map((from) => `${from} and d.status = '${status}'`),
})

/** The custom fields of the deal that was opened last, of the person or at their company. */
const LATEST_DEAL = `
    (
      select d.custom
      from deals d
      where d.prospect_id = p.id or d.company_id = p.company_id
      order by d.opened_at desc, d.id desc
      limit 1
    )
  `

const CADENCES = 'from enrollments x where x.prospect_id = p.id'

/** What was said last of calls, in a column of touches. */
function lastSaid(column: string): string {
  return `
    (
      select x.${column}
      from touches x
      where x.prospect_id = p.id and x.${column} is not null
      order by x.at desc, x.id desc
      limit 1
    )
  `
}

/** Where the fields' values are found; moments as milliseconds since 1970 where they are values. */
const SOURCES: Record<string, Source> = {
  name: value(`btrim(p.first_name || ' ' || p.last_name)`),
  title: value('p.title'),
  stage: value('p.stage_id'),
  owner: key('p.owner_id'),
  rating: value('p.rating'),
  score: value('p.score'),
  tags: { is: 'rows', from: 'from prospect_tags x where x.prospect_id = p.id', value: 'x.tag_id', type: 'uuid' },
  status: value('p.status'),
  relationshipOwner: key('p.relationship_owner_id'),
  source: value('p.source'),
  import: key('p.import_id'),
  createdAt: column('p.created_at'),
  emailTypes: { is: 'json', sql: 'to_jsonb(p.email_types)' },
  email: value(
    `
      (
        select x.address
        from email_addresses x
        where x.prospect_id = p.id
        order by (x.status = 'bounced'), x.position, x.id
        limit 1
      )
    `,
  ),
  phone: value('(select x.number from phones x where x.prospect_id = p.id order by x.position, x.id limit 1)'),
  phoneStatuses: { is: 'rows', from: 'from phones x where x.prospect_id = p.id', value: 'x.status', type: 'text' },
  country: value('p.country'),
  region: value('p.region'),
  city: value('p.city'),
  postalCode: value('p.postal_code'),
  timeZone: value('p.time_zone'),
  stopCall: { is: 'flag', sql: 'p.stop_call' },
  stopEmail: { is: 'flag', sql: 'p.stop_email' },
  isCustomer: { is: 'flag', sql: `c.status = 'customer'`, known: false },
  companyName: value('c.name'),
  companyDomain: value('c.domain'),
  companyStatus: value('c.status'),
  companyIndustry: value('c.industry'),
  companySize: value('c.size'),
  companyCountry: value('c.country'),
  companyRegion: value('c.region'),
  companyCity: value('c.city'),
  companyPeople: value(
    'case when c.id is not null then (select count(*) from prospects x where x.company_id = p.company_id) end',
  ),
  lastTouch: column('p.last_touch_at'),
  lastCall: column('p.last_call_at'),
  lastText: column('p.last_text_at'),
  lastEmail: column('p.last_email_at'),
  lastReply: column('p.last_reply_at'),
  lastMeeting: column('p.last_meeting_at'),
  lastVisit: column('p.last_visit_at'),
  attempts: value('p.attempts'),
  conversations: value('p.conversations'),
  emailOpens: value('(select coalesce(sum(x.opens), 0) from email_messages x where x.prospect_id = p.id)'),
  neverReached: { is: 'flag', sql: '(p.conversations = 0)' },
  nextAction: value(nextActionSql('p.id')),
  lastOutcome: key('p.last_outcome_id'),
  outcomes: {
    is: 'rows',
    from: 'from touches x where x.prospect_id = p.id and x.outcome_id is not null',
    value: 'x.outcome_id',
    type: 'uuid',
  },
  lastQuality: value(lastSaid('quality')),
  lastSucceeded: { is: 'flag', sql: lastSaid('succeeded'), known: false },
  forms: {
    is: 'rows',
    from: 'from form_submissions x where x.prospect_id = p.id',
    value: 'x.form_id',
    type: 'uuid',
  },
  inCadence: { is: 'rows', from: `${CADENCES} and x.status <> 'ended'`, value: 'x.cadence_id', type: 'uuid' },
  wasInCadence: { is: 'rows', from: CADENCES, value: 'x.cadence_id', type: 'uuid' },
  cadenceEnded: { is: 'rows', from: `${CADENCES} and x.exit is not null`, value: 'x.exit', type: 'text' },
  wonDeals: deals('won'),
  openDeals: deals('open'),
  lostDeals: deals('lost'),
  dealValue: value(`greatest(${DEALS.map((from) => `(select max(d.value) ${from})`).join(', ')})`),
  lists: { is: 'lists' },
  place: { is: 'place' },
}

const OWN = /^(?:(company|deal):)?custom:(.+)$/

export const isOwn = (field: Field) => OWN.test(field.key)

/** The fields that are read from the prospect's company. */
const OF_COMPANY = /^(company|isCustomer$|place$)/

export function sourceOf(field: Field, t: Translation): Source {
  t.readsCompany ||= OF_COMPANY.test(field.key)
  const own = OWN.exec(field.key)
  if (!own) return field.key === 'isNew' ? newSource(t) : SOURCES[field.key]!
  const byRecord = own[1] ? 'c.custom' : 'p.custom'
  const holder = own[1] === 'deal' ? LATEST_DEAL : byRecord
  const key = t.parameter(own[2])
  switch (field.kind) {
    case 'several':
      return { is: 'json', sql: `(${holder} -> ${key}::text)` }
    case 'yesNo':
      return { is: 'flag', sql: `(${holder} ->> ${key}::text)::boolean`, known: false }
    case 'number':
      return value(`(${holder} ->> ${key}::text)::numeric`)
    case 'moment':
      return value(`ms((${holder} ->> ${key}::text)::date::timestamp at time zone ${t.parameter(t.timeZone)}::text)`)
    default:
      return value(`(${holder} ->> ${key}::text)`)
  }
}

/** True of anyone who came a few days ago, own contacts aside. */
function newSource(t: Translation): Source {
  return {
    is: 'flag',
    sql: `(p.created_at > from_ms(${t.parameter(t.now - NEW_DAYS * DAY)}::bigint) and not p.own_contact)`,
  }
}

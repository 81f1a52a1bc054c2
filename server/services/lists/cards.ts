import ICAL from 'ical.js'
import type { Id } from '#core/instant'
import { db } from '../../db/pool'
import { sql } from '../../db/sql'

interface Card {
  id: Id
  first_name: string
  last_name: string
  name: string
  title: string | null
  company: string | null
  domain: string | null
  city: string | null
  region: string | null
  postal_code: string | null
  country: string | null
  timeZone: string
  tags: string[]
  emails: string[]
  phones: { number: string; kind: string }[]
}

/** People as cards (vCard 4.0, RFC 6350), in the order of the ids. */
export async function cardsOf(ids: readonly Id[]): Promise<string> {
  const { rows } = await db().query<Card>(
    sql`
      select
        p.id, p.first_name, p.last_name, btrim(p.first_name || ' ' || p.last_name) as name, p.title,
        c.name as company, c.domain, p.city, p.region, p.postal_code, p.country, p.time_zone as "timeZone",
        array(
          select t.name
          from prospect_tags x
            join tags t on t.id = x.tag_id
          where x.prospect_id = p.id
          order by lower(t.name)
        ) as tags,
        array(select address from email_addresses e where e.prospect_id = p.id and e.status = 'ok' order by position) as
          emails,
        (
          select coalesce(json_agg(json_build_object('number', n.number, 'kind', n.kind) order by n.position), '[]')
          from phones n
          where n.prospect_id = p.id and n.status not in ('wrong', 'disconnected')
        ) as phones
      from unnest($1::uuid[]) with ordinality as asked(id, place)
        join prospects p on p.id = asked.id
        left join companies c on c.id = p.company_id
      order by asked.place
    `,
    [ids],
  )
  return rows.map(cardOf).join('')
}

const TYPES: Record<string, string> = { work: 'work', mobile: 'cell', home: 'home', other: 'voice' }

function cardOf(person: Card): string {
  type Property = [name: string, parameters: Record<string, string>, type: string, ...values: unknown[]]
  const properties: Property[] = [
    ['version', {}, 'text', '4.0'],
    ['uid', {}, 'uri', `urn:uuid:${person.id}`],
    ['fn', {}, 'text', person.name],
    ['n', {}, 'text', [person.last_name, person.first_name, '', '', '']],
    ...(person.title ? [['title', {}, 'text', person.title] as Property] : []),
    ...(person.company ? [['org', {}, 'text', person.company] as Property] : []),
    ...person.emails.map((address, index): Property => ['email', index ? {} : { pref: '1' }, 'text', address]),
    ...person.phones.map(({ number, kind }): Property => [
      'tel',
      { type: TYPES[kind] ?? 'voice', value: 'uri' },
      'uri',
      `tel:${number}`,
    ]),
    ...(person.city || person.region || person.postal_code || person.country
      ? [
          [
            'adr',
            {},
            'text',
            ['', '', '', person.city ?? '', person.region ?? '', person.postal_code ?? '', person.country ?? ''],
          ] as Property,
        ]
      : []),
    ['tz', {}, 'text', person.timeZone],
    ...(person.domain ? [['url', {}, 'uri', `https://${person.domain}`] as Property] : []),
    ...(person.tags.length ? [['categories', {}, 'text', ...person.tags] as Property] : []),
  ]
  return `${ICAL.stringify(['vcard', properties, []] as never)}\r\n`
}

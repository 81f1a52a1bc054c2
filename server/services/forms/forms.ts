import { randomBytes } from 'node:crypto'
import type { Action } from '#core/actions/registry'
import { isUsual, type FormField } from '#core/forms/fields'
import type { Id } from '#core/instant'
import type { Form, Submission } from '#shared/api/settings/forms'
import { newId } from '#shared/newId'
import { breaksUnique, db, transaction, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { logEvent, logTexts, type Changes } from '../../engine/eventLog'
import { playbookChanged } from '../../engine/playbook'
import { env } from '../../environment'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { actionFaults, checkActionsWithoutCall } from '../actions/checkActions'

export interface FormBody {
  name: string
  heading: string
  intro: string
  button: string
  thanks: string
  nextUrl: string | null
  fields: FormField[]
  consent: string
  source: string | null
  actions: Action[]
}

/** The columns of a form as its body names them. */
const BODY_COLUMNS = sql`
  f.name, f.heading, f.intro, f.button, f.thanks, f.next_url as "nextUrl", f.fields, f.consent, f.source, f.actions
`

/** The address under which anyone can fill in a form. */
const addressOf = (key: string) => `${env().url}/f/${key}`

/** The forms by name, each with how often it was sent, and what its actions refer to that is not there any more. */
export async function listForms(): Promise<{ forms: Form[] }> {
  const { rows } = await db().query<Omit<Form, 'url' | 'faults'> & { key: string }>(
    sql`
      select
        f.id, ${BODY_COLUMNS}, f.version, f.key, count(s.id) as sent,
        count(s.id) filter (where s.is_new) as added, ms(max(s.at)) as "lastAt"
      from forms f
        left join form_submissions s on s.form_id = f.id
      where f.archived_at is null
      group by f.id
      order by lower(f.name)
    `,
  )
  const faults = await actionFaults(rows.flatMap(({ actions }) => actions))
  let place = 0
  const forms = rows.map(({ key, ...form }) => {
    const own = faults.slice(place, (place += form.actions.length))
    return { ...form, url: addressOf(key), faults: own.flatMap((fault) => fault ?? []) }
  })
  return { forms }
}

/** Throws at the field where a form's actions or questions refer to what is not there. */
async function check({ actions, fields }: FormBody, client: Db): Promise<void> {
  await checkActionsWithoutCall(actions)
  const ids = fields.map(({ key }) => key).filter((key) => !isUsual(key))
  const { rows } = await client.query<{ id: Id }>(
    sql`select id from custom_fields where of = 'prospect' and id = any($1::uuid[])`,
    [ids],
  )
  const known = new Set(rows.map(({ id }) => id))
  const lost = fields.findIndex(({ key }) => !isUsual(key) && !known.has(key))
  if (lost < 0) return
  const message = 'This custom field has been deleted'
  throw new Refusal('invalid', message, [{ field: `fields.${lost}`, message }])
}

/** What a form's settings say, as people read them; for what was and is of an edit. */
function inWords(form: FormBody): Record<string, unknown> {
  const { actions, fields, nextUrl, ...plain } = form
  return {
    ...plain,
    next_address: nextUrl,
    fields: fields.map(({ label, required }) => `${label}${required ? ' (required)' : ''}`).join(', '),
    actions: actions.length,
  }
}

const nameTaken = () => {
  const message = 'There is already a form with this name'
  return new Refusal('conflict', message, [{ field: 'name', message }])
}

const columnsOf = (body: FormBody) => [
  body.name,
  body.heading,
  body.intro,
  body.button,
  body.thanks,
  body.nextUrl,
  JSON.stringify(body.fields),
  body.consent,
  body.source?.trim() || null,
  JSON.stringify(body.actions),
]

/** Adds a form; its public address is made here and stays. */
export async function addForm(viewer: Viewer, body: FormBody): Promise<{ id: Id }> {
  const id = newId()
  try {
    await transaction(async (client) => {
      await check(body, client)
      await client.query(
        sql`
          insert into forms (
            id, name, heading, intro, button, thanks, next_url, fields, consent, source, actions, key, created_at
          )
          values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, world_now())
        `,
        [id, ...columnsOf(body), randomBytes(9).toString('base64url')],
      )
      await logEvent(client, { kind: 'formAdded', prospectId: null, formId: id, actorId: viewer.id })
      await playbookChanged(client)
    })
  } catch (error) {
    if (breaksUnique(error, 'forms_by_name')) throw nameTaken()
    throw error
  }
  return { id }
}

/** Changes a form or archives it. Throws a conflict where someone was faster. */
export async function editForm(
  viewer: Viewer,
  id: Id,
  { version, archived, ...body }: FormBody & { version: number; archived: boolean },
): Promise<{ version: number }> {
  try {
    return await transaction(async (client) => {
      const was = await firstRow(
        client.query<FormBody & { version: number }>(
          sql`
            select ${BODY_COLUMNS}, f.version
            from forms f
            where f.id = $1 and f.archived_at is null
            for update
          `,
          [id],
        ),
      )
      if (!was) throw notFound('form')
      if (was.version !== version) {
        throw new Refusal('conflict', 'Changed by someone else; showing the latest version', [], {
          version: was.version,
        })
      }
      if (!archived) await check(body, client)
      await client.query(
        sql`
          update forms
          set
            name = $2, heading = $3, intro = $4, button = $5, thanks = $6, next_url = $7, fields = $8, consent = $9,
            source = $10, actions = $11, archived_at = case when $12 then world_now() end, version = version + 1
          where id = $1
        `,
        [id, ...columnsOf(body), archived],
      )
      await logEdit(client, viewer, id, archived, [inWords(was), inWords(body)])
      await playbookChanged(client)
      return { version: version + 1 }
    })
  } catch (error) {
    if (breaksUnique(error, 'forms_by_name')) throw nameTaken()
    throw error
  }
}

type Words = Record<string, unknown>

/** Logs what was changed of a form, with what was and is beside the log. */
async function logEdit(client: Db, viewer: Viewer, id: Id, archived: boolean, [was, is]: [Words, Words]) {
  const about = { prospectId: null, formId: id, actorId: viewer.id }
  if (archived) {
    await logEvent(client, { ...about, kind: 'formArchived' })
    return
  }
  const fields = Object.keys(is).filter((key) => was[key] !== is[key])
  if (!fields.length) return
  const changes: Changes = Object.fromEntries(fields.map((key) => [key, [was[key], is[key]]]))
  await logTexts(client, await logEvent(client, { ...about, kind: 'formEdited', payload: { fields } }), null, {
    changes,
  })
}

/** What was sent with a form, latest first. */
export async function formSubmissions(id: Id, limit: number): Promise<{ submissions: Submission[] }> {
  const form = await firstRow(db().query(sql`select from forms where id = $1`, [id]))
  if (!form) throw notFound('form')
  const { rows } = await db().query<Submission>(
    sql`
      select
        s.id, ms(s.at) as at, s.is_new as "isNew", s.answers,
        json_build_object('id', p.id, 'name', btrim(p.first_name || ' ' || p.last_name)) as person
      from form_submissions s
        join prospects p on p.id = s.prospect_id
      where s.form_id = $1
      order by s.at desc, s.id desc
      limit $2
    `,
    [id, limit],
  )
  return { submissions: rows }
}

/** A form as anyone sees it who is given its address. */
export interface PublicForm extends FormBody {
  id: Id
  /** Custom fields that it asks, by id. */
  custom: Record<Id, { kind: string; choices: string[] }>
}

/** The form at a public address; null where there is none, or it was archived. */
export async function formAt(key: string): Promise<PublicForm | null> {
  const row = await firstRow(
    db().query<PublicForm>(
      sql`
        select
          f.id, ${BODY_COLUMNS},
          (
            select coalesce(json_object_agg(c.id, json_build_object('kind', c.kind, 'choices', c.choices)), '{}')
            from custom_fields c
            where c.of = 'prospect'
              and c.id::text in (select q ->> 'key' from jsonb_array_elements(f.fields) q)
          ) as custom
        from forms f
        where f.key = $1 and f.archived_at is null
      `,
      [key],
    ),
  )
  if (!row) return null
  // A question about a custom field that was deleted since is not asked any more.
  return { ...row, fields: row.fields.filter(({ key: asked }) => isUsual(asked) || row.custom[asked]) }
}

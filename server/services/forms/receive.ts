import type { PoolClient } from 'pg'
import { FORM_FIELDS, isUsual } from '#core/forms/fields'
import type { Id } from '#core/instant'
import { isStorable } from '#core/text/names'
import { newId } from '#shared/newId'
import type { Db, Deferred } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { logEvent } from '../../engine/eventLog'
import { AlreadyRecorded, recordAfter } from '../../engine/recordEvents'
import { Refusal } from '../access/errors'
import { readCustom } from '../fields/customFields'
import { putPerson } from '../prospects/addProspect'
import type { PublicForm } from './forms'

/** What a browser sends: values by the keys of the questions; of several choices, all. */
export type Given = Readonly<Record<string, string | readonly string[]>>

/** The longest answers, in characters. */
const LONGEST = { name: 200, email: 320, phone: 60, message: 5_000 } as const
const LONGEST_OTHER = 500
/** A question that nobody sees: what fills it in is no person. */
export const TRAP = 'website_address'

const one = (value: Given[string] | undefined): string =>
  (typeof value === 'string' ? value : (value?.[0] ?? '')).trim()

/** The answers to the usual questions and to custom fields, checked; throws Refusal with each field that is wrong. */
async function read(form: PublicForm, given: Given, client: Db) {
  const problems: { field: string; message: string }[] = []
  const usual: Partial<Record<keyof typeof FORM_FIELDS, string>> = {}
  const custom: Record<Id, unknown> = {}
  const answers: { label: string; value: string }[] = []
  for (const { key, label, required } of form.fields) {
    const value = given[key]
    const said = typeof value === 'string' ? value.trim() : (value ?? []).join(', ')
    const longest = isUsual(key) && key in LONGEST ? LONGEST[key as keyof typeof LONGEST] : LONGEST_OTHER
    if (required && !said) problems.push({ field: key, message: 'Please fill this in' })
    else if (said.length > longest) problems.push({ field: key, message: `At most ${longest} characters` })
    else if (!isStorable(said)) problems.push({ field: key, message: 'Contains characters that cannot be saved' })
    if (said) answers.push({ label, value: said })
    if (isUsual(key)) usual[key] = said
    else if (said) custom[key] = form.custom[key]!.kind === 'choices' ? [value].flat() : one(value)
  }
  if (problems.length) throw new Refusal('invalid', 'Some answers are missing or too long', problems)
  return { usual, answers, custom: await readCustom('prospect', custom, client) }
}

/** Puts what is new about someone who was known already: an empty title, a number, empty custom fields. */
async function fillIn(
  client: Db,
  prospectId: Id,
  { title, phone, custom }: { title: string | null; phone: string | null; custom: Readonly<Record<Id, unknown>> },
): Promise<void> {
  const fields: string[] = []
  const titled = await client.query(
    sql`
      update prospects
      set title = $2, version = version + 1
      where id = $1 and coalesce(title, '') = '' and $2::text is not null
    `,
    [prospectId, title],
  )
  if (titled.rowCount) fields.push('title')
  const called = await client.query(
    sql`
      insert into phones (id, prospect_id, number, position)
      select $2, $1, $3, (select count(*) from phones where prospect_id = $1)
      where $3::text is not null
        and not exists (select from phones where prospect_id = $1 and number = $3)
    `,
    [prospectId, newId(), phone],
  )
  if (called.rowCount) fields.push('phone')
  // What a field holds already was found out by someone: it stays.
  const known = await firstRow(
    client.query<{ custom: Record<string, unknown> }>(sql`select custom from prospects where id = $1`, [prospectId]),
  )
  const empty = Object.fromEntries(Object.entries(custom).filter(([id]) => known!.custom[id] === undefined))
  if (Object.keys(empty).length) {
    await client.query(sql`update prospects set custom = custom || $2, version = version + 1 where id = $1`, [
      prospectId,
      JSON.stringify(empty),
    ])
    fields.push(...Object.keys(empty))
  }
  if (!fields.length) return
  await logEvent(client, { kind: 'prospectEdited', prospectId, actorId: null, payload: { fields } })
}

/** Takes marketing email on or, of someone new who left the box empty, off. */
async function setMarketing(client: Db, prospectId: Id, agreed: boolean): Promise<void> {
  const { rowCount } = await client.query(
    sql`
      update prospects
      set
        version = version + 1,
        email_types = case when $2 then email_types || '{marketing}' else array_remove(email_types, 'marketing') end
      where id = $1 and ('marketing' = any(email_types)) <> $2
    `,
    [prospectId, agreed],
  )
  if (!rowCount) return
  await logEvent(client, {
    kind: 'prospectEdited',
    prospectId,
    actorId: null,
    payload: { fields: ['email_types'] },
  })
}

/**
 * Takes what someone sent with a form: the prospect is found by their address (or number and name), or added; then the
 * form's event is recorded, under `id`. Sent twice under one id, it counts once. Throws Refusal with each field that is
 * wrong.
 */
export async function takeForm(form: PublicForm, id: Id, given: Given): Promise<void> {
  if (one(given[TRAP])) return
  const found = async (client: PoolClient, later: Deferred) => {
    const { usual, answers, custom } = await read(form, given, client)
    const person = {
      name: usual.name!,
      email: usual.email!,
      ...(usual.phone && { phone: usual.phone }),
      ...(usual.company && { company: usual.company }),
      ...(usual.title && { title: usual.title }),
      ...(usual.country && { country: usual.country }),
      ...(usual.region && { region: usual.region }),
    }
    const put = await putPerson(client, later, person, {
      ownerId: null,
      actorId: null,
      seenBy: null,
      source: form.source,
      custom,
    })
    if (put.known) await fillIn(client, put.id, { title: usual.title || null, phone: put.phone, custom })
    const agreed = form.consent !== '' && one(given.consent) !== ''
    if (form.consent && (agreed || !put.known)) await setMarketing(client, put.id, agreed)
    return { prospectId: put.id, isNew: !put.known, answers }
  }
  try {
    await recordAfter(async (client, later) => {
      const { prospectId, isNew, answers } = await found(client, later)
      const alsoWrite = async () => {
        await client.query(
          sql`
            insert into form_submissions (id, form_id, prospect_id, at, is_new, answers)
            values ($1, $2, $3, world_now(), $4, $5)
          `,
          [id, form.id, prospectId, isNew, JSON.stringify(answers)],
        )
      }
      const event = { id, prospectId, actorId: null, causedByEventId: null, formId: form.id, isNew }
      return { events: [{ ...event, kind: 'formSent' }], hooks: { alsoWrite } }
    })
  } catch (error) {
    // The same form once more: the answer was lost, or the button was pressed twice.
    if (!(error instanceof AlreadyRecorded)) throw error
  }
}

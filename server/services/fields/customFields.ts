import type { CustomFieldKind } from '#core/enumerations'
import type { TextVersion } from '#core/cadence/versions'
import { renameInHtml } from '#core/text/html'
import { renameInTemplate, type CustomMergeField } from '#core/text/merge'
import { MERGE_FIELDS } from '#core/text/mergeFields'
import { readCustomValue, type CustomValue } from '#core/text/customValue'
import type { Id } from '#core/instant'
import type { CustomField } from '#shared/api/settings/fields'
import { newId } from '#shared/newId'
import { readMergeNames } from '../../db/mergeFields'
import { breaksUnique, db, transaction, type Db } from '../../db/pool'
import { playbookChanged } from '../../engine/playbook'
import { notFound, Refusal } from '../access/errors'
import { firstRow, sql } from '../../db/sql'

type Of = CustomField['of']
const TABLES: Record<Of, string> = { prospect: 'prospects', company: 'companies', deal: 'deals' }
const FIELD = 'id, of, name, kind, choices, required, indexed, default_value as "defaultValue", version'

/** The custom fields, in order. */
export async function listFields(client: Db = db()): Promise<{ fields: CustomField[] }> {
  const { rows } = await client.query<CustomField>(
    sql`select ${FIELD} from custom_fields order by of desc, position, id`,
  )
  return { fields: rows }
}

/** What templates may name: the usual fields, then the team's own. */
export async function listMergeFields(): Promise<{ fields: { name: string; label: string }[] }> {
  const own = await readMergeNames(db())
  return {
    fields: [
      ...Object.entries(MERGE_FIELDS).map(([name, label]) => ({ name, label })),
      ...[...own].map(([name, field]) => ({
        name,
        label: field.of === 'company' ? `Company: ${field.name}` : field.name,
      })),
    ],
  }
}

interface TextRow {
  id: Id
  subject: string | null
  body: string | null
  html: string | null
}

/** The tables whose texts are templates, and which of their rows. */
const TEXTS = [
  ['email_templates', 'true'],
  ['cadence_steps', 'template_id is null'],
  ['email_messages', `kind = 'bulk' and not written and status in ('queued', 'held')`],
] as const

/** Carries a new name into the other versions of steps’ texts. */
async function renameInVersions(client: Db, name: string, now: string): Promise<void> {
  const { rows } = await client.query<{ id: Id; versions: TextVersion[] }>(
    sql`
      select id, versions
      from cadence_steps
      where position($1 in versions::text) > 0
      for update
    `,
    [name],
  )
  for (const { id, versions } of rows) {
    const renamed = versions.map((version) => ({
      ...version,
      subject: renameInTemplate(version.subject, name, now),
      body: renameInTemplate(version.body, name, now),
      html: version.html && renameInHtml(version.html, name, now),
    }))
    await client.query(sql`update cadence_steps set versions = $2 where id = $1`, [id, JSON.stringify(renamed)])
  }
}

/** Carries the names that a change of the custom fields gives them into every template that names them. */
async function renameInTemplates(client: Db, before: ReadonlyMap<string, CustomMergeField>): Promise<void> {
  const after = new Map([...(await readMergeNames(client))].map(([name, field]) => [field.id, name]))
  for (const [name, { id }] of before) {
    const now = after.get(id)
    if (!now || now === name) continue
    await renameInVersions(client, name, now)
    // Templates first: the steps that use one take its text.
    for (const [table, condition] of TEXTS) {
      const { rows } = await client.query<TextRow>(
        sql`
          select id, subject, body, html
          from ${table}
          where position($1 in concat(subject, body, html)) > 0 and ${condition}
          for update
        `,
        [name],
      )
      for (const row of rows) {
        await client.query(sql`update ${table} set subject = $2, body = $3, html = $4 where id = $1`, [
          row.id,
          row.subject && renameInTemplate(row.subject, name, now),
          row.body && renameInTemplate(row.body, name, now),
          row.html && renameInHtml(row.html, name, now),
        ])
      }
    }
  }
}

const nameTaken = () =>
  new Refusal('conflict', 'There is already a field with this name', [
    { field: 'name', message: 'There is already a field with this name' },
  ])

function readDefault(given: unknown, kind: CustomFieldKind, choices: readonly string[]): CustomValue {
  const read = readCustomValue(given, kind, choices)
  if ('error' in read) throw new Refusal('invalid', read.error, [{ field: 'defaultValue', message: read.error }])
  return read.value
}

function checkChoices(kind: CustomFieldKind, choices: readonly string[]): string[] {
  const own = [...new Set(choices)]
  const wants = kind === 'choice' || kind === 'choices'
  if (wants !== own.length > 0) {
    throw new Refusal('invalid', wants ? 'Enter at least one choice' : 'Only choice fields have choices', [
      { field: 'choices', message: wants ? 'Enter at least one choice' : 'Only choice fields have choices' },
    ])
  }
  return own
}

function mayBeQuick(of: Of, indexed: boolean): boolean {
  if (indexed && of === 'deal') {
    throw new Refusal('invalid', 'Only fields of people and companies can have an index', [
      { field: 'indexed', message: 'Only fields of people and companies can have an index' },
    ])
  }
  return indexed
}

/** Has a job see to the indexes of custom fields. */
async function askForIndexes(client: Db): Promise<void> {
  await client.query(sql`select graphile_worker.add_job('indexFields', job_key => 'index fields', max_attempts => 3)`)
}

/** Makes a field. Anyone who is there already has no value in it; the default is for those who come. */
export async function addField(given: {
  of: Of
  name: string
  kind: CustomFieldKind
  choices: readonly string[]
  required: boolean
  indexed?: boolean
  defaultValue?: unknown
}): Promise<{ id: Id }> {
  const indexed = mayBeQuick(given.of, given.indexed ?? false)
  const choices = checkChoices(given.kind, given.choices)
  const value = readDefault(given.defaultValue, given.kind, choices)
  const id = newId()
  try {
    await transaction(async (client) => {
      await client.query(
        sql`
          insert into custom_fields (id, of, name, kind, choices, required, default_value, indexed, position)
          values ($1, $2, $3, $4, $5, $6, $7, $8, (select coalesce(max(position), -1) + 1 from custom_fields))
        `,
        [
          id,
          given.of,
          given.name,
          given.kind,
          choices,
          given.required,
          value === null ? null : JSON.stringify(value),
          indexed,
        ],
      )
      if (indexed) await askForIndexes(client)
      await playbookChanged(client)
    })
  } catch (error) {
    if (breaksUnique(error, 'custom_fields_by_name')) throw nameTaken()
    throw error
  }
  return { id }
}

/**
 * Changes a field; its kind stays. Values of a choice that is taken away are kept where they are, and no longer
 * offered.
 */
export async function editField(
  id: Id,
  edit: {
    version: number
    name?: string
    choices?: readonly string[]
    required?: boolean
    indexed?: boolean
    defaultValue?: unknown
  },
): Promise<{ version: number }> {
  try {
    return await transaction(async (client) => {
      const field = await firstRow(
        client.query<CustomField>(sql`select ${FIELD} from custom_fields where id = $1 for update`, [id]),
      )
      if (!field) throw notFound('field')
      if (field.version !== edit.version) {
        throw new Refusal('conflict', 'Changed by someone else. Load it again', [], { version: field.version })
      }
      const indexed = mayBeQuick(field.of, edit.indexed ?? field.indexed)
      const names = await readMergeNames(client)
      const choices = edit.choices ? checkChoices(field.kind, edit.choices) : field.choices
      const value = readDefault(
        edit.defaultValue === undefined ? field.defaultValue : edit.defaultValue,
        field.kind,
        choices,
      )
      const after = await firstRow(
        client.query<{ version: number }>(
          sql`
            update custom_fields
            set name = $2, choices = $3, required = $4, default_value = $5, indexed = $6, version = version + 1
            where id = $1
            returning version
          `,
          [
            id,
            edit.name ?? field.name,
            choices,
            edit.required ?? field.required,
            value === null ? null : JSON.stringify(value),
            indexed,
          ],
        ),
      )
      if (indexed !== field.indexed) await askForIndexes(client)
      await renameInTemplates(client, names)
      await playbookChanged(client)
      return { version: after!.version }
    })
  } catch (error) {
    if (breaksUnique(error, 'custom_fields_by_name')) throw nameTaken()
    throw error
  }
}

/** Removes a field with all its values; gives how many there were. Filters that ask for it say so from then on. */
export async function removeField(id: Id): Promise<{ values: number }> {
  return transaction(async (client) => {
    const names = await readMergeNames(client)
    const field = await firstRow(
      client.query<{ of: Of; indexed: boolean }>(sql`delete from custom_fields where id = $1 returning of, indexed`, [
        id,
      ]),
    )
    if (!field) throw notFound('field')
    const { rowCount } = await client.query(
      sql`
        update ${TABLES[field.of]}
        set custom = custom - $1::text
        where custom ? $1::text
      `,
      [id],
    )
    await renameInTemplates(client, names)
    await playbookChanged(client)
    if (field.indexed) await askForIndexes(client)
    return { values: rowCount ?? 0 }
  })
}

/**
 * Reads values given for custom fields, by their ids: what is to be set, with null for what is to be emptied. Throws at
 * `custom.` and the field's id where one cannot be taken, is unknown, or is required and emptied.
 */
export async function readCustom(
  of: Of,
  given: Readonly<Record<string, unknown>>,
  client: Db,
): Promise<Record<Id, CustomValue>> {
  const { fields } = await listFields(client)
  const problems: { field: string; message: string }[] = []
  const values: Record<Id, CustomValue> = {}
  for (const [id, wanted] of Object.entries(given)) {
    const field = fields.find((one) => one.id === id && one.of === of)
    const read = field ? readCustomValue(wanted, field.kind, field.choices) : { error: 'There is no such field' }
    if ('error' in read) problems.push({ field: `custom.${id}`, message: read.error })
    else if (read.value === null && field!.required) {
      problems.push({ field: `custom.${id}`, message: `${field!.name} is required` })
    } else values[id] = read.value
  }
  if (problems.length) throw new Refusal('invalid', problems.map((problem) => problem.message).join('. '), problems)
  return values
}

/** The default values of new rows. */
export async function customDefaults(of: Of, client: Db): Promise<Record<Id, CustomValue>> {
  const { fields } = await listFields(client)
  return Object.fromEntries(
    fields
      .filter((field) => field.of === of && field.defaultValue !== null)
      .map((field) => [field.id, field.defaultValue as CustomValue]),
  )
}

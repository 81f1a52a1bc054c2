import { manages } from '#core/roles'
import type { TemplateKind } from '#core/enumerations'
import { emailHints } from '#core/email/hints'
import type { Problem } from '#core/engine/state/events'
import { merge, templateFaults, type MergeValues } from '#core/text/merge'
import type { Id } from '#core/instant'
import type { EmailTemplate } from '#shared/api/email/templates'
import { newId } from '#shared/newId'
import { MERGE_COLUMNS, mergeValues, readMergeNames, type MergeRow } from '../../db/mergeFields'
import { db, transaction, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { playbookChanged } from '../../engine/playbook'
import { mustSee } from '../access/access'
import { mayEdit, maySee } from '../access/owned'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { weighFiles } from './files'
import { bothForms, sanitized } from './richText'

type Content = Omit<EmailTemplate, 'id' | 'kind' | 'version' | 'archived' | 'owner' | 'mayEdit' | 'usedBy'>
type Row = Omit<EmailTemplate, 'mayEdit'> & { ownerId: Id | null }

const COLUMNS = sql`
  t.id, t.kind, t.version, t.archived_at is not null as archived, t.owner_id as "ownerId",
  case when not t.shared then u.name end as owner, t.name, t.category, t.shared, t.subject, t.body, t.html,
  t.attachments, t.sources, t.stages,
  (
    select coalesce(
      json_agg(
        json_build_object('cadenceId', c.id, 'cadence', c.name, 'step', s.name) order by c.name, s.position
      ), '[]'
    )
    from cadence_steps s
      join cadences c on c.id = s.cadence_id
    where s.template_id = t.id and s.archived_at is null and c.status <> 'archived'
  ) as "usedBy"
`

const forViewer = (viewer: Viewer, { ownerId, ...row }: Row): EmailTemplate => ({
  ...row,
  mayEdit: mayEdit(viewer, { ownerId, shared: row.shared }),
})

/** Templates or snippets the viewer may use, by category and name; with a prospect, those for them first. */
export async function listEmailTemplates(
  viewer: Viewer,
  asked: { kind: TemplateKind; archived: 'yes' | 'no'; prospectId?: Id | undefined },
): Promise<{ templates: (EmailTemplate & { fits: boolean })[] }> {
  if (asked.prospectId) await mustSee(viewer, asked.prospectId)
  const { rows } = await db().query<Row & { fits: boolean }>(
    sql`
      select ${COLUMNS}, coalesce(p.source = any(t.sources) or p.stage_id = any(t.stages), false) as fits
      from email_templates t
        left join users u on u.id = t.owner_id
        left join prospects p on p.id = $3
      where t.kind = $1
        and (t.archived_at is not null) = $2
      order by fits desc, t.category, t.name, t.id
    `,
    [asked.kind, asked.archived === 'yes', asked.prospectId ?? null],
  )
  return {
    templates: rows
      .filter((row) => maySee(viewer, row))
      .map(({ fits, ...row }) => ({ ...forViewer(viewer, row), fits })),
  }
}

/** One template or snippet. Throws where there is none for the viewer. */
export async function getEmailTemplate(viewer: Viewer, id: Id, client: Db = db()): Promise<EmailTemplate> {
  const row = await firstRow(
    client.query<Row>(
      sql`
        select ${COLUMNS}
        from email_templates t
          left join users u on u.id = t.owner_id
        where t.id = $1
      `,
      [id],
    ),
  )
  if (!row || !maySee(viewer, row)) throw notFound('template')
  return forViewer(viewer, row)
}

/** What is wrong with an email’s text and its files, each at its field. */
export async function emailProblems(
  email: Pick<Content, 'subject' | 'body' | 'html' | 'attachments'>,
  client: Db = db(),
): Promise<{ faults: { field: string; line: number; message: string }[]; problems: Problem[]; bytes: number }> {
  const names = await readMergeNames(client)
  const own = (['subject', 'body'] as const).flatMap((field) =>
    templateFaults(email[field], names).map((fault) => ({ field: field as string, ...fault })),
  )
  const ofHtml = templateFaults(email.html ?? '', names, 'html').map((fault) => ({ field: 'body', ...fault }))
  // What has formatting says the same as its plain text: a fault in both is said once.
  const faults = own.some(({ field }) => field === 'body') ? own : [...own, ...ofHtml]
  const { bytes, problems } = await weighFiles(email, client)
  return { faults, problems, bytes }
}

async function settled(kind: TemplateKind, content: Content, usedBy: EmailTemplate['usedBy']): Promise<Content> {
  const email = bothForms(content)
  const { faults, problems } = await emailProblems(email)
  const found = [
    ...faults.map(({ field, line, message }) => ({ field, message: `Line ${line}: ${message}` })),
    ...problems,
  ]
  if (!email.body.trim() && !email.html) found.push({ field: 'body', message: 'Required' })
  if (usedBy.length && /\[\[.*?\]\]/s.test(email.subject + email.body)) {
    found.push({ field: 'body', message: 'Steps use this template: replace what stands in [[ ]] with your own words' })
  }
  if (usedBy.length && !email.subject.trim()) {
    found.push({ field: 'subject', message: 'Steps use this template, and a first email needs a subject' })
  }
  if (found.length) throw new Refusal('invalid', found[0]!.message, found)
  return kind === 'email' ? email : { ...email, subject: '', attachments: [], sources: [], stages: [] }
}

const valuesOf = (content: Content) => [
  content.name,
  content.category,
  content.shared,
  content.subject,
  content.body,
  content.html,
  content.attachments,
  content.sources,
  content.stages,
]

/** Adds a template or a snippet: shared with everyone, but a rep’s own. */
export async function addEmailTemplate(viewer: Viewer, given: Content & { kind: TemplateKind }): Promise<{ id: Id }> {
  const { kind, ...content } = given
  const email = await settled(kind, content, [])
  const id = newId()
  await db().query(
    sql`
      insert into email_templates (
        id, kind, owner_id, name, category, shared, subject, body, html, attachments, sources, stages, created_at
      )
      values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, world_now())
    `,
    [id, kind, viewer.id, ...valuesOf({ ...email, shared: email.shared && manages(viewer) })],
  )
  return { id }
}

function mustEdit(template: EmailTemplate): void {
  if (!template.mayEdit) throw new Refusal('not_allowed', 'Only a manager can change a template that is shared')
}

/** Replaces a template: steps that use it say the new text. Throws a conflict where it was changed meanwhile. */
export async function editEmailTemplate(
  viewer: Viewer,
  id: Id,
  { version, ...content }: Content & { version: number },
): Promise<{ version: number }> {
  const before = await getEmailTemplate(viewer, id)
  mustEdit(before)
  const email = await settled(before.kind, content, before.usedBy)
  if (!email.shared) await mustStayShared(id)
  return transaction(async (client) => {
    const { rowCount } = await client.query(
      sql`
        update email_templates
        set
          name = $3, category = $4, shared = $5, subject = $6, body = $7, html = $8, attachments = $9, sources = $10,
          stages = $11, owner_id = case when $5 then owner_id else coalesce(owner_id, $12) end, version = version + 1
        where id = $1 and version = $2
      `,
      [id, version, ...valuesOf(email), viewer.id],
    )
    if (!rowCount) {
      throw new Refusal('conflict', 'Changed by someone else. Load it again; your changes are still here to copy', [], {
        version: before.version,
      })
    }
    await playbookChanged(client)
    return { version: version + 1 }
  })
}

/** Throws where cadences that are shared use a template: their readers could not read it. */
async function mustStayShared(id: Id): Promise<void> {
  const used = await firstRow(
    db().query<{ name: string }>(
      sql`
        select c.name
        from cadence_steps s
          join cadences c on c.id = s.cadence_id
        where s.template_id = $1 and s.archived_at is null and c.shared
        limit 1
      `,
      [id],
    ),
  )
  if (!used) return
  const message = `“${used.name}” uses it and is shared, so it has to stay shared`
  throw new Refusal('invalid', message, [{ field: 'shared', message }])
}

/** Archives a template, so that it is not offered any more, or brings it back. Steps that use it keep its text. */
export async function archiveEmailTemplate(viewer: Viewer, id: Id, archived: boolean): Promise<{ version: number }> {
  mustEdit(await getEmailTemplate(viewer, id))
  const row = await firstRow(
    db().query<{ version: number }>(
      sql`
        update email_templates
        set archived_at = case when $2 then coalesce(archived_at, world_now()) end, version = version + 1
        where id = $1
        returning version
      `,
      [id, archived],
    ),
  )
  return row!
}

/** An email’s text filled in with values, in both its forms; as it is where it has a fault. */
export function fillEmail(
  email: { subject: string; body: string; html: string | null },
  values: MergeValues,
): { subject: string; body: string; html: string | null; missing: string[] } {
  const subject = merge(email.subject, values)
  const body = merge(email.body, values)
  const html = email.html === null ? null : merge(email.html, values, 'html')
  const whole = (filled: ReturnType<typeof merge>, template: string) => (filled.error ? template : filled.text)
  return {
    subject: whole(subject, email.subject),
    body: whole(body, email.body),
    html: html && sanitized(whole(html, email.html!)),
    missing: [...new Set([...subject.missing, ...body.missing, ...(html?.missing ?? [])])],
  }
}

/** An email as a prospect would get it from the viewer; without one, with what is known of the team alone. */
export async function previewEmail(
  viewer: Viewer,
  { prospectId, ...given }: { prospectId: Id | null } & Pick<Content, 'subject' | 'body' | 'html' | 'attachments'>,
) {
  if (prospectId) await mustSee(viewer, prospectId)
  const email = bothForms(given)
  const row = await firstRow(
    db().query<MergeRow>(
      sql`
        select ${MERGE_COLUMNS}
        from team t
          left join prospects p on p.id = $1
          left join companies c on c.id = p.company_id
      `,
      [prospectId],
    ),
  )
  const own = await readMergeNames(db())
  const values = prospectId
    ? mergeValues(row!, viewer, own)
    : { team: row!.team, sender_name: viewer.name, signature: viewer.signature || viewer.name }
  const { faults, problems, bytes } = await emailProblems(email)
  const { missing, ...filled } = fillEmail(email, values)
  const hints = emailHints({ ...email, bytes })
  return {
    ...filled,
    missing: prospectId ? missing : [],
    faults: [...faults, ...problems.map((problem) => ({ line: 1, ...problem }))],
    hints,
  }
}

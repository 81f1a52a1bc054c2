import type { Id } from '#core/instant'
import type { StepDraft } from '#shared/api/cadences/cadences'
import { db } from '../../db/pool'
import { sql } from '../../db/sql'
import { Refusal } from '../access/errors'
import { maySee } from '../access/owned'
import type { Viewer } from '../access/viewer'
import { bothForms } from '../templates/richText'

interface TemplateRow {
  id: Id
  name: string
  ownerId: Id | null
  shared: boolean
  subject: string
  body: string
  html: string | null
  attachments: Id[]
}

/**
 * Steps with the texts that they are saved with: of a template what the template says, of an email both its forms.
 * Throws where a template is not there, or is one user’s own and the cadence is shared.
 */
export async function settleTexts(viewer: Viewer, steps: readonly StepDraft[], shared: boolean): Promise<StepDraft[]> {
  const ids = [
    ...new Set(steps.flatMap(({ kind, templateId }) => (kind === 'email' && templateId ? [templateId] : []))),
  ]
  const { rows } = ids.length
    ? await db().query<TemplateRow>(
        sql`
          select id, name, owner_id as "ownerId", shared, subject, body, html, attachments
          from email_templates
          where id = any($1::uuid[]) and kind = 'email'
        `,
        [ids],
      )
    : { rows: [] }
  const templates = new Map(rows.filter((row) => maySee(viewer, row)).map((row) => [row.id, row]))
  return steps.map((step, index) => {
    if (step.kind !== 'email') {
      return { ...step, html: null, attachments: [], weight: 1, versions: [], templateId: null }
    }
    const versions = step.versions.map(bothForms)
    if (!step.templateId) return { ...bothForms(step), versions }
    const template = templates.get(step.templateId)
    const why = template ? null : 'This template no longer exists: choose another, or write the text here'
    const own = template && !template.shared && shared ? `Share the template “${template.name}” first` : null
    const message = why ?? own
    if (message) throw new Refusal('invalid', message, [{ field: `steps.${index}.templateId`, message }])
    const { subject, body, html, attachments } = template!
    return { ...step, subject, body, html, attachments, versions }
  })
}

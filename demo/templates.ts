import type { Viewer } from '../server/services/access/viewer'
import { uploadFile } from '../server/services/templates/files'
import { addEmailTemplate } from '../server/services/templates/templates'

/** A page of a few lines as a file in PDF (ISO 32000-1), so that there is something to attach. */
function onePage(lines: readonly string[]): Buffer {
  const text = lines.map((line, index) => `1 0 0 1 72 ${720 - index * 22} Tm (${line}) Tj`).join('\n')
  const drawing = `BT /F1 13 Tf\n${text}\nET`
  const objects = [
    '<< /Type /Catalog /Pages 2 0 R >>',
    '<< /Type /Pages /Kids [3 0 R] /Count 1 >>',
    '<< /Type /Page /Parent 2 0 R /MediaBox [0 0 612 792] /Contents 4 0 R /Resources << /Font << /F1 5 0 R >> >> >>',
    `<< /Length ${drawing.length} >>\nstream\n${drawing}\nendstream`,
    '<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>',
  ]
  let file = '%PDF-1.4\n'
  const starts = objects.map((object, index) => {
    const start = file.length
    file += `${index + 1} 0 obj\n${object}\nendobj\n`
    return start
  })
  const table = starts.map((start) => `${String(start).padStart(10, '0')} 00000 n \n`).join('')
  const trailer = `trailer\n<< /Size ${objects.length + 1} /Root 1 0 R >>\nstartxref\n${file.length}\n%%EOF\n`
  return Buffer.from(`${file}xref\n0 ${objects.length + 1}\n0000000000 65535 f \n${table}${trailer}`, 'latin1')
}

const GUIDE = [
  'Mapping a cold room in one day',
  'Thornwick Sensing',
  '1. Nine loggers: eight corners and the middle.',
  '2. Two days, with the door in use as usual.',
  '3. The warmest and the coldest place are where the fixed loggers go.',
]

const EMAILS = [
  {
    name: 'The mapping guide',
    category: 'Inbound',
    subject: 'The mapping guide you asked for',
    html: '<p>Hello {{ first_name | default: "there" }},</p><p>here is the guide to mapping a cold room in one day. In short:</p><ul><li>nine loggers, <strong>two days</strong>, nothing else to buy</li><li>the warmest and the coldest place are where the fixed ones go</li></ul><p>If you tell me how many rooms {{ company | default: "you" }} has, I can say in a line what it takes.</p><p>{{ signature }}</p>',
    stages: [],
    sources: [],
  },
  {
    name: 'Good to meet you at the fair',
    category: 'Outbound',
    subject: 'The logger you held at the fair',
    html: '<p>Hello {{ first_name | default: "there" }},</p><p>we spoke at the Cold chain fair. The small logger you held is the one that calls someone <em>within a minute</em> when a room drifts.</p><p>Shall we look at your rooms together for 15 minutes this week?</p><p>{{ sender_first_name }}</p>',
    stages: [],
    sources: ['Cold chain fair'],
  },
  {
    name: 'What it costs',
    category: 'In conversation',
    subject: 'What loggers cost for {{ company | default: "you" }}',
    html: '<p>Hello {{ first_name | default: "there" }},</p><p>as promised: a room of up to 400 square feet takes three loggers at $129 each; alarms by phone are $9 a month for all of them.</p><p><strong>Nothing else</strong>: no gateway, no setup fee.</p><p>{{ signature }}</p>',
    stages: ['in_conversation', 'meeting_set'],
    sources: [],
  },
  {
    name: 'Still the right time?',
    category: 'Nurture',
    subject: 'Is drift in the rooms on your list this season?',
    html: '<p>Hello {{ first_name | default: "there" }},</p><p>we said we would talk again. Is this the season, or shall I come back in spring? One word is enough.</p><p>{{ sender_first_name }}</p>',
    stages: ['nurture'],
    sources: [],
  },
]
const SNIPPETS = [
  {
    name: 'How alarms work',
    category: '',
    body: 'When a room leaves its range for five minutes, the logger calls the first number, then the second, until someone presses 1.',
  },
  {
    name: 'Battery life',
    category: '',
    body: 'The batteries last four years at one reading a minute, and the logger says three months before they end.',
  },
]

/** The demo team’s email templates and snippets, the first with a file; gives the ids of the emails by their names. */
export async function addTemplates(manager: Viewer, rep: Viewer): Promise<Map<string, string>> {
  const guide = await uploadFile(manager, 'mapping-guide.pdf', inOneChunk(onePage(GUIDE)))
  const ids = new Map<string, string>()
  for (const email of EMAILS) {
    const attachments = email.name === 'The mapping guide' ? [guide.id] : []
    const { id } = await addEmailTemplate(manager, { ...email, kind: 'email', shared: true, body: '', attachments })
    ids.set(email.name, id)
  }
  const plain = { kind: 'snippet' as const, subject: '', html: null, attachments: [], stages: [], sources: [] }
  for (const snippet of SNIPPETS) await addEmailTemplate(manager, { ...plain, ...snippet, shared: true })
  await addEmailTemplate(rep, {
    ...plain,
    name: 'How to find me',
    category: '',
    body: 'I am at the end of Kiln Lane, above the pottery; ring twice.',
    shared: false,
  })
  return ids
}

async function* inOneChunk(content: Buffer): AsyncIterable<Uint8Array> {
  yield content
}

import { randomUUID } from 'node:crypto'
import type { Action } from '../core/actions/registry'
import { db } from '../server/db/pool'
import { firstRow, sql } from '../server/db/sql'
import type { Viewer } from '../server/services/access/viewer'
import { addForm, formAt } from '../server/services/forms/forms'
import { takeForm } from '../server/services/forms/receive'
import { catchUp } from './month'
import { stopClock } from './clock'

const MINUTE = 60_000
/** Who asked for the guide, how long ago in minutes, and what they wrote. */
const SENT = [
  { name: 'Philippa Thornbury', at: 'thornbury-creamery.example', ago: 4_300, message: '' },
  { name: 'Anselm Verhoeven', at: 'verhoeven-cellars.example', ago: 2_900, message: 'Two rooms, one new.' },
  { name: 'Beatrix Lindgren', at: 'lindgren-archive.example', ago: 1_430, message: '' },
  {
    name: 'Cormac Fairweather',
    at: 'fairweather-seeds.example',
    ago: 160,
    message: 'How long does it take to set up?',
  },
  { name: 'Philippa Thornbury', at: 'thornbury-creamery.example', ago: 25, message: 'Can someone call me today?' },
]

/** A form on the website by which people ask for the guide: those who did lately are on the Desks of reps in turn. */
export async function addForms(
  manager: Viewer,
  reps: readonly Viewer[],
  { start, cadenceId }: { start: number; cadenceId: string },
): Promise<void> {
  const actions: Action[] = [
    { type: 'assign', to: reps.map(({ id }) => id) },
    {
      type: 'makeTask',
      task: 'task',
      title: 'Answer: asked for the guide',
      wait: { amount: 0, unit: 'hours' },
      whose: 'owner',
    },
    { type: 'startCadence', cadenceId, noCadence: true, after: { amount: 2, unit: 'business_days' } },
  ]
  const { id } = await addForm(manager, {
    name: 'Ask for the guide',
    heading: 'The nine points before an audit',
    intro: 'We wrote down what to look at in your rooms before an audit. Tell us where to send it.',
    button: 'Send me the guide',
    thanks: 'Thank you. The guide is on its way.',
    nextUrl: null,
    fields: [
      { key: 'name', label: 'Your name', required: true },
      { key: 'email', label: 'Work email', required: true },
      { key: 'phone', label: 'Phone', required: false },
      { key: 'company', label: 'Company', required: true },
      { key: 'message', label: 'What would you like to know?', required: false },
    ],
    consent: 'Send me news about storage rooms a few times a year.',
    source: 'Website',
    actions,
  })
  const form = await firstRow(db().query<{ key: string }>(sql`select key from forms where id = $1`, [id]))
  for (const [index, { name, at, ago, message }] of SENT.entries()) {
    await stopClock(start - ago * MINUTE)
    const [first] = name.toLowerCase().split(' ') as [string]
    const company = at
      .split('.')[0]!
      .split('-')
      .map((word) => word[0]!.toUpperCase() + word.slice(1))
    await takeForm((await formAt(form!.key))!, randomUUID(), {
      name,
      email: `${first}@${at}`,
      phone: `(607) 555-01${40 + index}`,
      message,
      company: company.join(' '),
      ...(index % 2 === 0 && { consent: 'yes' }),
    })
    await catchUp()
  }
}

import { randomUUID } from 'node:crypto'
import { DateTime } from 'luxon'
import { DEFAULT_ENTRY } from '../core/cadence/entry'
import { DEFAULT_EXITS } from '../core/cadence/exits'
import { closePool, db } from '../server/db/pool'
import { takeDueSteps } from '../server/engine/dueSteps'
import { holidayTables } from '../server/engine/holidays'
import { isBusinessDay } from '../core/calendar/local'
import { addTemplates } from './templates'
import { addCadence, editCadence } from '../server/services/cadences/editCadence'
import { withNewIds } from '../server/services/cadences/stepDraft'
import { getCadence } from '../server/services/cadences/cadences'
import { DEMO_PASSWORD } from '../server/services/system/demo'
import { seedPlaybook } from '../server/services/settings/firstPlaybook'
import { addProspect } from '../server/services/prospects/addProspect'
import { hashPassword } from '../server/services/access/passwords'
import type { Viewer } from '../server/services/access/viewer'
import { editTeam, getTeam } from '../server/services/settings/settings'
import { setGoals } from '../server/services/team/teamWeek'
import { editQueuePriorities } from '../server/services/desk/priorities'
import { addSendingWindow } from '../server/services/sending/windows'
import { addBlocks } from './blocks'
import { addLines } from './lines'
import { addOtherDialer } from './otherDialer'
import { addForms } from './forms'
import { addCalls, addOtherToDos, addToDos } from './toDos'
import { CADENCES } from './cadences'
import { learnCallHours } from '../server/services/bestTime/learn'
import { stopClock } from './clock'
import { COMPANIES, nameOf, TITLES } from './names'
import { fillTheDay } from './day'
import { importFair } from './fair'
import {
  addCustomers,
  addLists,
  enrollCustomers,
  changeMany,
  addTeams,
  describeDeals,
  describePeople,
  moveDeals,
} from './lists'
import { describeRecords } from './records'
import { workTheMonth } from './month'
import { seeded } from './seeded'
import { addVoicemailMessage } from './voicemail'
import { firstRow, sql } from '../server/db/sql'

const TIME_ZONE = 'America/New_York'
const PEOPLE: {
  name: string
  role: Viewer['role']
  email: string
  timeZone: string
  goals: { calls: number; conversations: number; booked: number }
}[] = [
  {
    name: 'Maren Holloway',
    role: 'manager',
    email: 'maren@thornwick.example',
    timeZone: TIME_ZONE,
    goals: { calls: 0, conversations: 0, booked: 0 },
  },
  {
    name: 'Imani Osei',
    role: 'rep',
    email: 'imani@thornwick.example',
    timeZone: TIME_ZONE,
    goals: { calls: 25, conversations: 6, booked: 1 },
  },
  {
    name: 'Joaquin Pell',
    role: 'rep',
    email: 'joaquin@thornwick.example',
    timeZone: TIME_ZONE,
    goals: { calls: 25, conversations: 6, booked: 1 },
  },
  {
    name: 'Delphine Amsel',
    role: 'rep',
    email: 'delphine@thornwick.example',
    timeZone: TIME_ZONE,
    goals: { calls: 15, conversations: 4, booked: 1 },
  },
  {
    name: 'Theo Blackwood',
    role: 'rep',
    email: 'theo@thornwick.example',
    timeZone: 'America/Chicago',
    goals: { calls: 12, conversations: 3, booked: 1 },
  },
  {
    name: 'Rosa Quintrell',
    role: 'rep',
    email: 'rosa@thornwick.example',
    timeZone: 'America/Los_Angeles',
    goals: { calls: 12, conversations: 3, booked: 1 },
  },
  {
    name: 'Nell Harrow',
    role: 'caller',
    email: 'nell@thornwick.example',
    timeZone: TIME_ZONE,
    goals: { calls: 40, conversations: 8, booked: 0 },
  },
]
/** One company in three is Imani's or Joaquin's, as is one person: they have been here longest. */
const SHARES = [0, 1, 2, 3, 4, 0, 1]

/** 10:42 on the team's present or next business day: the moment at which the demo begins. */
function opening(): number {
  let day = DateTime.now().setZone(TIME_ZONE).startOf('day')
  while (!isBusinessDay(day.toISODate()!, { country: 'US', region: 'NY' }, holidayTables())) day = day.plus({ days: 1 })
  return day.set({ hour: 10, minute: 42 }).toMillis()
}

async function seed(): Promise<void> {
  const row = await firstRow(db().query<{ some: boolean }>(sql`select exists (select from users) as some`))
  if (row!.some) return console.log('The demo world is there already')
  const start = opening()
  const monthAgo = DateTime.fromMillis(start)
    .setZone(TIME_ZONE)
    .minus({ days: 32 })
    .set({ hour: 9, minute: 0 })
    .toMillis()
  await stopClock(monthAgo)
  await seedPlaybook(db())
  await editTeam({
    ...(await getTeam()),
    name: 'Thornwick Sensing',
    postalAddress: '14 Kiln Lane, Ithaca NY',
    country: 'US',
    timeZone: TIME_ZONE,
    callFrom: 480,
    callTo: 1080,
  })
  const team = await addTeam()
  const reps = team.filter((viewer) => viewer.role === 'rep')
  const caller = team.find((viewer) => viewer.role === 'caller')!
  console.log('Making companies and people …')
  const people = await addPeople(reps)
  const templates = await addTemplates(team[0]!, reps[0]!)
  const cadenceIds = await addCadences(team[0]!, templates)
  console.log('Living through a month: mail, calls, replies, meetings …')
  await workTheMonth({ from: monthAgo, to: start, timeZone: TIME_ZONE, reps, people, cadenceIds })
  await importFair(team[0]!, reps, { start, timeZone: TIME_ZONE, cadenceId: cadenceIds[2]! })
  await stopClock(DateTime.fromMillis(start).setZone(TIME_ZONE).minus({ days: 3 }).toMillis())
  await addNewcomers(reps)
  const blocks = { manager: team[0]!, yesterday: [reps[2]!, reps[3]!], today: [reps[0]!, reps[1]!, caller] }
  await addBlocks(blocks, start, TIME_ZONE)
  await addLines(team[0]!, [reps[0]!, reps[1]!, caller], start)
  await addOtherDialer(team[0]!, [reps[2]!, reps[3]!], start)
  await stopClock(start)
  console.log('Making lists, tags and fields …')
  await describePeople(team[0]!)
  await addCustomers()
  await enrollCustomers(cadenceIds.at(-1)!)
  await describeRecords(team[0]!, reps[0]!)
  await addLists(team[0]!, reps[0]!)
  await editQueuePriorities(team[0]!, [
    { type: 'filter', filter: { field: 'score', test: { op: 'atLeast', number: 20 } } },
  ])
  await addTeams(team[0]!, reps)
  await moveDeals(team[0]!)
  await changeMany(team[0]!)
  await addToDos(team[0]!, [reps[2]!, reps[3]!], start)
  await addCalls(team[0]!, caller, reps[4]!, start)
  await addOtherToDos(team[0]!, reps, start)
  await addForms(team[0]!, reps, { start, cadenceId: cadenceIds[1]! })
  await stopClock(start)
  for (const rep of reps) await fillTheDay(rep)
  await addVoicemailMessage(reps[0]!.id)
  await describeDeals()
  for (let taken = 1; taken;) taken = await takeDueSteps()
  await db().query(
    sql`
    update clock
    set ahead = $1 - clock_timestamp(), frozen_at = null, target = null
  `,
    [new Date(start)],
  )
  await learnCallHours()
  await db().query('analyze')
}

async function addTeam(): Promise<Viewer[]> {
  const hash = await hashPassword(DEMO_PASSWORD)
  const viewers: Viewer[] = []
  for (const person of PEOPLE) {
    const id = randomUUID()
    await db().query(
      sql`
        insert into users (
          id, email, name, role, time_zone, password_hash, email_spacing_seconds, signature, setup_hidden_at,
          email_jitter, email_domain_cap, email_ramp_first, email_ramp_more
        )
        values ($1, $2, $3, $4, $5, $6, 10, $7, now(), 50, 50, $8, $9)
      `,
      [
        id,
        person.email,
        person.name,
        person.role,
        person.timeZone,
        hash,
        `${person.name}\nThornwick Sensing`,
        ...(person === PEOPLE.at(-1) ? [20, 10] : [null, null]),
      ],
    )
    viewers.push({
      id,
      name: person.name,
      role: person.role,
      email: person.email,
      timeZone: person.timeZone,
      dateStyle: 'us',
      seesAll: person.role !== 'rep',
      session: null,
      mustChangePassword: false,
    })
  }
  await setGoals(PEOPLE.map(({ goals }, index) => ({ id: viewers[index]!.id, goals })))
  return viewers
}

async function addPeople(reps: readonly Viewer[]): Promise<Map<string, string[]>> {
  const random = seeded(11)
  const byRep = new Map<string, string[]>(reps.map((rep) => [rep.id, []]))
  let nth = 0
  for (const [index, company] of COMPANIES.entries()) {
    const rep = reps[SHARES[index % SHARES.length]!]!
    const count = 3 + Math.floor(random() * 6)
    for (let person = 0; person < count; person++, nth++) {
      const { first, last } = nameOf(nth, index)
      const withEmail = random() > 0.08
      const added = await addProspect(rep, {
        name: `${first} ${last}`,
        title: TITLES[nth % TITLES.length],
        company: company.name,
        country: company.country,
        ...(company.region && { region: company.region }),
        ...(withEmail && { email: `${first}.${last}@${company.domain}`.toLowerCase() }),
        phone: company.phone(nth),
      })
      if (!added.known) {
        await db().query(sql`update prospects set city = $2, source = $3 where id = $1`, [
          added.id,
          company.city,
          random() > 0.5 ? 'Cold chain fair' : 'Bought list, spring',
        ])
        byRep.get(rep.id)!.push(added.id)
      }
    }
  }
  for (const company of COMPANIES) {
    await db().query(sql`update companies set country = $2, region = $3, city = $4 where domain = $1`, [
      company.domain,
      company.country,
      company.region || null,
      company.city,
    ])
  }
  // Every third number is a mobile one.
  await db().query(sql`update phones set kind = 'mobile' where right(number, 1) in ('1', '4', '7')`)
  return byRep
}

/** People who came in a few days ago and whom nobody has tried yet. */
async function addNewcomers(reps: readonly Viewer[]): Promise<void> {
  for (let nth = 0; nth < 16; nth++) {
    const company = COMPANIES[(nth * 5) % COMPANIES.length]!
    const { first, last } = nameOf(nth + 500, 3)
    const added = await addProspect(reps[nth % reps.length]!, {
      name: `${first} ${last}`,
      email: `${first}.${last}@${company.domain}`.toLowerCase(),
      title: TITLES[(nth * 3) % TITLES.length],
      company: company.name,
      country: company.country,
      region: company.region,
      phone: company.phone(70 + nth),
    })
    await db().query(sql`update prospects set city = $2, source = $3 where id = $1`, [
      added.id,
      company.city,
      'Sample request, web',
    ])
  }
}

async function addCadences(manager: Viewer, templates: ReadonlyMap<string, string>): Promise<string[]> {
  const ids: string[] = []
  const hours = { days: [1, 2, 3, 4, 5], clock: 'prospect' as const, holidays: 'prospect' as const }
  const { id: mornings } = await addSendingWindow({ ...hours, name: 'Before lunch', from: 480, to: 720 })
  const ours = { days: [1, 2, 3, 4, 5], clock: 'sender' as const, holidays: 'team' as const }
  const { id: office } = await addSendingWindow({ ...ours, name: 'Our office hours', from: 540, to: 1050 })
  const windowOf: Record<string, string> = { 'Quiet for a year': mornings, 'Customers: second site': office }
  for (const cadence of CADENCES) {
    const { id } = await addCadence(manager, {
      ...cadence,
      exits: { ...DEFAULT_EXITS, ...cadence.exits },
      entry: { ...DEFAULT_ENTRY, ...cadence.entry },
      shared: true,
      emailType: null,
      afterLast: [],
      windowId: windowOf[cadence.name] ?? null,
      // A step of a template’s name uses it.
      steps: withNewIds(cadence.steps).map((step) => ({ ...step, templateId: templates.get(step.name) ?? null })),
    })
    const { id: _, ownerId: _owner, ...made } = await getCadence(id)
    await editCadence(manager, id, { ...made, status: 'active' })
    ids.push(id)
  }
  return ids
}

try {
  await seed()
} catch (error) {
  console.error('The demo world could not be made:', error)
  process.exitCode = 1
}
await closePool()

import { randomUUID } from 'node:crypto'
import { Readable } from 'node:stream'
import { describe, expect, it } from 'vitest'
import { editCompany, getCompany, setCompanyStatus } from '../../../shared/api/companies'
import { mergeCompanies } from '../../../shared/api/duplicates'
import { companyHistory, undo } from '../../../shared/api/events/history'
import { addProspect } from '../../../shared/api/prospects'
import { db } from '../../../server/db/pool'
import { firstRow, sql } from '../../../server/db/sql'
import { runImport as work } from '../../../server/imports/run'
import { checkImport, runImport, uploadImport } from '../../../server/services/imports/imports'
import { addPeople, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'

const team = withTeam()
const unique = () => randomUUID().slice(0, 6)
const historyOf = async (id: string, as = team.asManager) =>
  (await as.ok(companyHistory, { params: { id } })).entries.map(({ title, by, body, person, canUndo }) => ({
    title,
    by,
    body,
    person: person?.id ?? null,
    canUndo,
  }))

/** Brings a file in that fills in what is empty. */
async function bring(content: string): Promise<void> {
  const made = await uploadImport(team.admin, 'people.csv', Readable.from([Buffer.from(content)]))
  await checkImport(team.admin, made.id, { version: made.version, mapping: made.mapping, knownAction: 'fill' })
  await work(made.id)
  const { version } = (await firstRow(
    db().query<{ version: number }>(sql`select version from imports where id = $1`, [made.id]),
  ))!
  await runImport(team.admin, made.id, { version, knownAction: 'fill' })
  await work(made.id)
}

describe('the history of a company', () => {
  it('says what was edited, by whom, from what to what; the log itself holds none of it', async () => {
    const { companyId } = await addPeople(1, team.rep.id, `Gault ${unique()}`)
    const edit = { version: 1, industry: 'Dairy', size: 40, city: null }
    await team.asRep.ok(editCompany, { params: { id: companyId }, body: edit })
    // What is the same as before is no change.
    await team.asRep.ok(editCompany, { params: { id: companyId }, body: { ...edit, version: 2, city: 'Marlpit' } })
    const [second, first] = await historyOf(companyId, team.asRep)
    expect(first).toMatchObject({ title: 'Company edited', by: 'Imani Osei' })
    expect(first!.body!.split('\n').sort()).toEqual(['Industry: none → Dairy', 'Size: none → 40'])
    expect(second).toMatchObject({ body: 'City: none → Marlpit' })
    const logged = await rows(sql`select payload from events where company_id = $1`, [companyId])
    expect(JSON.stringify(logged)).not.toMatch(/Dairy|Marlpit/)
    await team.asOther.refused(companyHistory, 404, { params: { id: companyId } })
  })
  it('says by which way a status came, and takes it back', async () => {
    const { ids, companyId } = await addPeople(1, team.rep.id, `Gault ${unique()}`)
    await team.asRep.ok(setCompanyStatus, { params: { id: companyId }, body: { id: randomUUID(), to: 'not_a_fit' } })
    const [entry] = (await team.asRep.ok(companyHistory, { params: { id: companyId } })).entries
    expect(entry).toMatchObject({ title: 'Company status changed', person: { id: ids[0] }, canUndo: true })
    expect(entry!.body).toBe('Company status: open → not a fit')
    await team.asRep.ok(undo, { params: { id: entry!.id }, body: { id: randomUUID() } })
    expect((await team.asRep.ok(getCompany, { params: { id: companyId } })).status).toBe('open')
    expect((await historyOf(companyId, team.asRep)).map(({ title, canUndo }) => [title, canUndo])).toEqual([
      ['Undone', false],
      ['Company status changed', false],
    ])
  })
  it('holds what files and people added by hand bring, once for each company that they change', async () => {
    const domain = `${unique()}.example`
    const email = `ada@${domain}`
    const { id } = await team.asRep.ok(addProspect, { body: { name: `Ada ${unique()}`, company: 'Marl', email } })
    const { companyId } = (await firstRow(
      db().query<{ companyId: string }>(sql`select company_id as "companyId" from prospects where id = $1`, [id]),
    ))!
    expect(await historyOf(companyId)).toMatchObject([{ title: 'Company added', by: 'Imani Osei' }])
    const other = `${unique()}.example`
    await bring(
      `First name,Last name,Email,Company,Industry\nBo,Quist,bo@${domain},Marl,Cheese\n` +
        `Cy,Quist,cy@${domain},Marl,Cheese\nDee,Lund,dee@${other},Slate,Stone\n`,
    )
    expect(await historyOf(companyId)).toMatchObject([
      { title: 'Company edited', by: 'Ada Quill', body: 'Industry: none → Cheese' },
      { title: 'Company added' },
    ])
    const slate = (await firstRow(
      db().query<{ id: string }>(sql`select id from companies where domain = $1`, [other]),
    ))!
    expect(await historyOf(slate.id)).toMatchObject([{ title: 'Company added', by: 'Ada Quill' }])
  })
  it('goes on in the company it was merged into', async () => {
    const [primary, duplicate] = [
      await addPeople(1, team.rep.id, `Gault ${unique()}`),
      await addPeople(1, team.rep.id, `Gault ${unique()}`),
    ]
    const params = { id: duplicate.companyId }
    await team.asManager.ok(editCompany, { params, body: { version: 1, industry: 'Dairy' } })
    const body = { id: randomUUID(), duplicateId: duplicate.companyId }
    await team.asManager.ok(mergeCompanies, { params: { id: primary.companyId }, body })
    expect((await historyOf(primary.companyId)).map(({ title }) => title)).toEqual([
      'Merged with a duplicate',
      'Company edited',
    ])
  })
})

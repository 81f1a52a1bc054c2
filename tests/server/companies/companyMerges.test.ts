import { randomUUID } from 'node:crypto'
import { Readable } from 'node:stream'
import { describe, expect, it } from 'vitest'
import {
  findDuplicateCompanies,
  listCompanyMerges,
  mergeCompanies,
  undoCompanyMerge,
} from '../../../shared/api/duplicates'
import { addNote, addProspect, getProspect } from '../../../shared/api/prospects'
import { getCompany, setCompanyStatus } from '../../../shared/api/companies'
import { prospectHistory } from '../../../shared/api/events/history'
import { db } from '../../../server/db/pool'
import { runImport as work } from '../../../server/imports/run'
import { enroll } from '../../../server/services/cadences/enrollments'
import { checkImport, runImport, uploadImport } from '../../../server/services/imports/imports'
import { addCadence, addPeople, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'
import { firstRow, sql } from '../../../server/db/sql'

const team = withTeam()
const unique = () => randomUUID().slice(0, 6)
const merge = async (primaryId: string, duplicateId: string) => {
  const id = randomUUID()
  await team.asManager.ok(mergeCompanies, { params: { id: primaryId }, body: { id, duplicateId } })
  return id
}
/** Everything that hangs on a company, and the two companies, as they stand; without versions, which only grow. */
const everything = (ids: readonly string[]) =>
  Promise.all([
    rows(
      sql`
      select to_jsonb(c) - 'version' as company
      from companies c
      where id = any($1)
      order by id
    `,
      [ids],
    ),
    rows(sql`select id, company_id from prospects where company_id = any($1) order by id`, [ids]),
    rows(
      sql`
      select id, company_id
      from company_notes
      where company_id = any($1)
      order by id
    `,
      [ids],
    ),
    rows(
      sql`
      select kind, value, company_id
      from company_aliases
      where company_id = any($1)
      order by 1, 2
    `,
      [ids],
    ),
  ])
async function bring(content: string): Promise<void> {
  const viewer = { ...team.admin, role: 'manager' as const }
  const made = await uploadImport(viewer, 'people.csv', Readable.from([Buffer.from(content)]))
  const mapping = made.mapping
  await checkImport(viewer, made.id, { version: made.version, mapping, knownAction: 'skip' })
  await work(made.id)
  const checked = await firstRow(
    db().query<{ version: number }>(sql`select version from imports where id = $1`, [made.id]),
  )
  await runImport(viewer, made.id, { version: checked!.version, knownAction: 'skip' })
  await work(made.id)
}

describe('two companies that are one', () => {
  it('become one with everyone there, and two again as they were', async () => {
    const primary = await addPeople(2, team.rep.id, `Gault ${unique()}`)
    const duplicate = await addPeople(3, team.other.id, `Gault ${unique()}`)
    await db().query(
      sql`
      update companies
      set industry = 'Dairy', city = 'Marlpit', custom = '{"a": 1}'
      where id = $1
    `,
      [duplicate.companyId],
    )
    await db().query(
      sql`
        insert into company_notes (id, company_id, user_id, at, body)
        values (gen_random_uuid(), $1, $2, world_now(), 'Two sites')
      `,
      [duplicate.companyId, team.rep.id],
    )
    const before = await everything([primary.companyId, duplicate.companyId])
    const id = await merge(primary.companyId, duplicate.companyId)
    const { people, hidden, ...company } = await team.asManager.ok(getCompany, { params: { id: primary.companyId } })
    expect({ count: people.length + hidden, industry: company.industry, city: company.city }).toEqual({
      count: 5,
      industry: 'Dairy',
      city: 'Marlpit',
    })
    // An old link leads to the company that stayed.
    expect((await team.asManager.ok(getCompany, { params: { id: duplicate.companyId } })).id).toBe(primary.companyId)
    const history = await team.asManager.ok(prospectHistory, { params: { id: duplicate.ids[0]! } })
    expect(history.entries[0]!.body).toMatch(/^Company: Gault \w+ → Gault \w+$/)
    expect(
      (
        await team.asManager.ok(mergeCompanies, {
          params: { id: primary.companyId },
          body: { id, duplicateId: duplicate.companyId },
        })
      ).summary,
    ).toMatch(/^Merged into Gault/)
    expect((await team.asManager.ok(listCompanyMerges, {})).merges[0]).toMatchObject({
      id,
      primaryId: primary.companyId,
    })
    expect((await team.asManager.ok(undoCompanyMerge, { params: { id } })).unchanged).toEqual([])
    expect(await everything([primary.companyId, duplicate.companyId])).toEqual(before)
    await team.asManager.refused(undoCompanyMerge, 409, { params: { id } })
  })
  it('take the stricter status, which ends what is under way, and lose it again with the merge', async () => {
    const primary = await addPeople(1, team.rep.id, `Gault ${unique()}`)
    const duplicate = await addPeople(1, team.rep.id, `Gault ${unique()}`)
    const cadence = await addCadence([{ kind: 'call' }])
    await enroll(team.rep, cadence.id, { prospectIds: primary.ids }, false)
    await team.asManager.ok(setCompanyStatus, {
      params: { id: duplicate.companyId },
      body: { id: randomUUID(), to: 'do_not_contact' },
    })
    const states = () =>
      rows<{ status: string; enrollment: string }>(
        sql`
          select c.status, e.status as enrollment
          from enrollments e
            join prospects p on p.id = e.prospect_id
            join companies c on c.id = p.company_id
          where p.id = $1
        `,
        [primary.ids[0]],
      )
    const id = await merge(primary.companyId, duplicate.companyId)
    expect(await states()).toEqual([{ status: 'do_not_contact', enrollment: 'ended' }])
    await team.asManager.ok(undoCompanyMerge, { params: { id } })
    expect((await states())[0]!.status).toBe('open')
    expect((await team.asManager.ok(getCompany, { params: { id: duplicate.companyId } })).status).toBe('do_not_contact')
  })
  it('keep what moved on since the merge, and say so', async () => {
    const [primary, duplicate, third] = [
      await addPeople(1, team.rep.id, `Gault ${unique()}`),
      await addPeople(2, team.rep.id, `Gault ${unique()}`),
      await addPeople(1, team.rep.id),
    ]
    const id = await merge(primary.companyId, duplicate.companyId)
    await db().query(sql`update prospects set company_id = $2 where id = $1`, [duplicate.ids[0], third.companyId])
    expect((await team.asManager.ok(undoCompanyMerge, { params: { id } })).unchanged).toEqual([
      '1 of its prospects moved or went since and stay there.',
    ])
    // Who was elsewhere has nothing of it in their activity.
    const bodies = async (id: string) => (await team.asManager.ok(prospectHistory, { params: { id } })).entries.length
    expect([await bodies(duplicate.ids[0]!), await bodies(duplicate.ids[1]!)]).toEqual([1, 2])
    // A chain is undone from its end.
    const first = await merge(primary.companyId, duplicate.companyId)
    const second = await merge(third.companyId, primary.companyId)
    await team.asManager.refused(undoCompanyMerge, 422, { params: { id: first } })
    expect((await team.asManager.ok(getCompany, { params: { id: duplicate.companyId } })).id).toBe(third.companyId)
    await team.asManager.ok(undoCompanyMerge, { params: { id: second } })
    await team.asManager.ok(undoCompanyMerge, { params: { id: first } })
  })
  it('are merged by managers alone, and never with themselves', async () => {
    const { companyId } = await addPeople(1, team.rep.id)
    const { companyId: other } = await addPeople(1, team.rep.id)
    await team.asRep.refused(mergeCompanies, 403, {
      params: { id: companyId },
      body: { id: randomUUID(), duplicateId: other },
    })
    await team.asManager.refused(mergeCompanies, 400, {
      params: { id: companyId },
      body: { id: randomUUID(), duplicateId: companyId },
    })
    await team.asManager.refused(mergeCompanies, 404, {
      params: { id: companyId },
      body: { id: randomUUID(), duplicateId: randomUUID() },
    })
  })
  it('are offered where one name has a company without a domain', async () => {
    const name = `Holm Dairy ${unique()}`
    const { companyId } = await addPeople(1, team.rep.id, name)
    const bare = randomUUID()
    await db().query(
      sql`
      insert into companies (id, name, name_key, created_at)
      values ($1, $2, lower($2), world_now())
    `,
      [bare, name],
    )
    const { pairs } = await team.asManager.ok(findDuplicateCompanies, {})
    expect(pairs.filter((pair) => pair.one.id === companyId)).toMatchObject([
      { one: { people: 1 }, other: { id: bare, domain: null, people: 0 } },
    ])
  })
})

describe('a company that a file or a person names', () => {
  const companiesOf = (name: string) =>
    rows<{ domain: string | null; people: number }>(
      sql`
        select domain, (select count(*) from prospects p where p.company_id = c.id)::int as people
        from companies c
        where name = $1
        order by domain
      `,
      [name],
    )
  it('is one where a colleague has no email, in the same file', async () => {
    const name = `Orchard Foods ${unique()}`
    const domain = `${unique()}.example`
    await bring(`Name,Company,Email\nAnna Berg,${name},\nBo Lind,${name},bo@${domain}\nCai Roe,${name},cai@gmail.com\n`)
    expect(await companiesOf(name)).toEqual([{ domain, people: 3 }])
  })
  it('stays two where two domains share the name', async () => {
    const name = `First Farm Bank ${unique()}`
    const [one, two] = [`a${unique()}.example`, `b${unique()}.example`]
    await bring(`Name,Company,Email\nAnna Berg,${name},anna@${one}\nBo Lind,${name},bo@${two}\n`)
    expect(await companiesOf(name)).toEqual([
      { domain: one, people: 1 },
      { domain: two, people: 1 },
    ])
  })
  it('takes the domain its people write from where it was added without one', async () => {
    const name = `Quarry Mills ${unique()}`
    const domain = `${unique()}.example`
    await bring(`Name,Company\nAnna Berg,${name}\n`)
    await bring(`Name,Company,Email\nBo Lind,${name},bo@${domain}\n`)
    expect(await companiesOf(name)).toEqual([{ domain, people: 2 }])
    const { id } = await team.asRep.ok(addProspect, { body: { name: 'Cai Roe', company: name } })
    expect(await companiesOf(name)).toEqual([{ domain, people: 3 }])
    expect((await team.asRep.ok(getProspect, { params: { id } })).company?.name).toBe(name)
  })
  it('is the one that stayed where it was merged, by its old name and domain', async () => {
    const [stay, old] = [`Stay ${unique()}`, `Old ${unique()}`]
    const [domain, oldDomain] = [`s${unique()}.example`, `o${unique()}.example`]
    await bring(`Name,Company,Email\nAnna Berg,${stay},anna@${domain}\nBo Lind,${old},bo@${oldDomain}\n`)
    const [primary, duplicate] = await Promise.all(
      [stay, old].map(
        async (name) => (await rows<{ id: string }>(sql`select id from companies where name = $1`, [name]))[0]!.id,
      ),
    )
    await merge(primary!, duplicate!)
    await bring(`Name,Company,Email\nCai Roe,${old},cai@${oldDomain}\nDag Moe,${old},\n`)
    await team.asRep.ok(addProspect, { body: { name: 'Eva Noe', company: old } })
    expect(await companiesOf(old)).toEqual([])
    expect(await companiesOf(stay)).toEqual([{ domain, people: 5 }])
  })
  it('is another one where a prospect added by hand writes from another domain', async () => {
    const name = `Summit ${unique()}`
    await team.asRep.ok(addProspect, { body: { name: 'Anna Berg', company: name, email: `anna@a${unique()}.example` } })
    const { id } = await team.asRep.ok(addProspect, {
      body: { name: 'Bo Lind', company: name, email: `bo@b${unique()}.example` },
    })
    await team.asRep.ok(addNote, { params: { id }, body: { id: randomUUID(), body: 'Another Summit' } })
    expect(await companiesOf(name)).toHaveLength(2)
  })
})

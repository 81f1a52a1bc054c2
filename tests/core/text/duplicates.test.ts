import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { suspect, type Likeness } from '../../../core/text/duplicates'

const person = (given: Partial<Likeness> = {}): Likeness => ({
  firstName: 'Petra',
  lastName: 'Lindqvist',
  companyId: null,
  phones: [],
  emails: [],
  ...given,
})
const reasons = (one: Partial<Likeness>, other: Partial<Likeness>) =>
  suspect(person(one), person(other))?.reasons ?? null

describe('two people who may be one', () => {
  it('are never suspected for a name alone', () => {
    expect(reasons({}, {})).toBeNull()
    expect(reasons({ companyId: 'a' }, { companyId: 'b' })).toBeNull()
  })
  it('are never suspected without a name in common', () => {
    expect(
      reasons(
        { lastName: 'Gault', companyId: 'a', phones: ['+12125550100'] },
        { companyId: 'a', phones: ['+12125550100'] },
      ),
    ).toBeNull()
    // Colleagues of one family name are two people.
    expect(reasons({ firstName: 'Ann', companyId: 'a' }, { firstName: 'Petra', companyId: 'a' })).toBeNull()
  })
  it.each<[string, Partial<Likeness>, Partial<Likeness>, string[]]>([
    [
      'a number',
      { phones: ['+12125550100', '+12125550101'] },
      { phones: ['+12125550101'] },
      ['the same name', 'the same number'],
    ],
    ['a company', { companyId: 'a' }, { companyId: 'a' }, ['the same name', 'the same company']],
    [
      'a mailbox',
      { emails: ['petra.l@oxbow.example'] },
      { emails: ['petra.l@mail.example'] },
      ['the same name', 'an address of the same name'],
    ],
    [
      'marks and case',
      { lastName: 'LINDQVIST', firstName: 'Pétra', companyId: 'a' },
      { companyId: 'a' },
      ['the same name', 'the same company'],
    ],
    [
      'a short first name',
      { firstName: 'Pet', companyId: 'a' },
      { companyId: 'a' },
      ['a name cut short', 'the same company'],
    ],
    [
      'a name turned round',
      { firstName: 'Lindqvist', lastName: 'Petra', companyId: 'a' },
      { companyId: 'a' },
      ['the same name turned round', 'the same company'],
    ],
    [
      'one name only',
      { lastName: '', phones: ['+12125550100'] },
      { lastName: '', phones: ['+12125550100'] },
      ['the same first name', 'the same number'],
    ],
  ])('are suspected for a name and %s', (_what, one, other, expected) => expect(reasons(one, other)).toEqual(expected))
  it('are not suspected for a mailbox that stands for nobody', () =>
    expect(reasons({ emails: ['info@oxbow.example'] }, { emails: ['info@mail.example'] })).toBeNull())
  it('are suspected alike from both sides, never for certain, and the more signs the surer', () => {
    const made = fc.record({
      firstName: fc.constantFrom('Petra', 'Pet', 'Ann', ''),
      lastName: fc.constantFrom('Lindqvist', 'Gault', 'Petra', ''),
      companyId: fc.constantFrom('a', 'b', null),
      phones: fc.subarray(['+12125550100', '+12125550101']),
      emails: fc.subarray(['petra@x.example', 'info@x.example', 'petra@y.example']),
    })
    fc.assert(
      fc.property(made, made, (one, other) => {
        const found = suspect(one, other)
        expect(suspect(other, one)).toEqual(found)
        if (!found) return
        expect(found.reasons.length).toBeGreaterThan(1)
        expect(found.sureness).toBeGreaterThan(0)
        expect(found.sureness).toBeLessThan(1)
        const more = suspect({ ...one, phones: ['+12125550199'] }, { ...other, phones: ['+12125550199'] })
        expect(more!.sureness).toBeGreaterThanOrEqual(
          suspect({ ...one, phones: [] }, { ...other, phones: [] })?.sureness ?? 0,
        )
      }),
    )
  })
})

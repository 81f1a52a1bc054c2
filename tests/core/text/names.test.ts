import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { companyKey, isStorable, nameKey, properName, splitName, tidy } from '../../../core/text/names'

describe('names', () => {
  it.each([
    ['Lindqvist, Petra', 'Petra', 'Lindqvist'],
    ['Petra  van der Berg', 'Petra', 'van der Berg'],
    ['Petra', 'Petra', ''],
    ['  ', '', ''],
    ['Ng,Wei', 'Wei', 'Ng'],
  ])('%j are split', (whole, firstName, lastName) => expect(splitName(whole)).toEqual({ firstName, lastName }))
  it.each([
    ['Dr. Ines', 'Weber', 'Ines', 'Weber'],
    ['Prof. Dr. Anna', 'Groot', 'Anna', 'Groot'],
    ['COLIN', 'PRYCE', 'Colin', 'Pryce'],
    ['COLIN', 'Pryce', 'Colin', 'Pryce'],
    ['petra', 'van der berg', 'Petra', 'van der Berg'],
    ['JP', 'SMITH', 'JP', 'Smith'],
    ['MARY-ANN', "O'NEILL", 'Mary-Ann', "O'Neill"],
    ['IAN', 'MCGREGOR', 'Ian', 'McGregor'],
    ['Wei', 'Ng', 'Wei', 'Ng'],
    ['LI', 'WEI', 'LI', 'Wei'],
    ['Ms', '', 'Ms', ''],
    ['Mistral', 'Drake', 'Mistral', 'Drake'],
    ['K.D.', 'Lang', 'K.D.', 'Lang'],
    ['DeShawn', 'LaRue', 'DeShawn', 'LaRue'],
    ['ZOË', 'ÅKERBLOM', 'Zoë', 'Åkerblom'],
  ])('%j %j are greeted as %j %j', (firstName, lastName, first, last) =>
    expect(properName({ firstName, lastName })).toEqual({ firstName: first, lastName: last }),
  )
  it('that are as they should be are left as they are', () => {
    const name = fc.string({ unit: fc.constantFrom(...'abmcABMCåÅ-’. '), maxLength: 12 })
    fc.assert(
      fc.property(name, name, (first, last) => {
        const once = properName({ firstName: tidy(first), lastName: tidy(last) })
        expect(properName(once)).toEqual(once)
      }),
    )
  })
  it.each([
    ['The Marlpit Creamery, Inc.', 'marlpit creamery'],
    ['MARLPIT-CREAMERY GmbH & Co. KG', 'marlpit creamery'],
    ['The Co', 'the co'],
    ['Käserei Sankt Gallen AG', 'kaserei sankt gallen'],
    ['Straße 9 Ltd', 'strasse 9'],
  ])('of companies: %j is compared as %j', (name, key) => expect(companyKey(name)).toBe(key))
  it('are kept and compared the same, however often that is done', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (name) => {
        for (const form of [tidy, nameKey, companyKey]) expect(form(form(name))).toBe(form(name))
        expect(nameKey(name)).toMatch(/^[\p{L}\p{N}\p{M} ]*$/u)
        expect(tidy(name)).not.toMatch(/^\s|\s\s|\s$/)
        const { firstName, lastName } = splitName(name)
        expect(`${firstName}${lastName}`.length).toBeLessThanOrEqual(tidy(name).length)
      }),
    )
  })
  it('that PostgreSQL could not hold are known before it is asked', () => {
    // What is no well-formed Unicode has no UTF-8 (ECMA-262, Encode): encodeURIComponent throws.
    const hasUtf8 = (text: string) => {
      try {
        return encodeURIComponent(text) !== null
      } catch {
        return false
      }
    }
    fc.assert(
      fc.property(
        fc.string({
          unit: fc.oneof(
            fc.constantFrom('a', '\0', '\ud800', '\udc00', '🧀'),
            fc.string({ minLength: 1, maxLength: 1 }),
          ),
        }),
        (text) => {
          expect(isStorable(text)).toBe(!text.includes('\0') && hasUtf8(text))
        },
      ),
    )
  })
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { guessColumns, harmless, IMPORT_FIELDS, kindOfFile } from '../../../core/imports/columns'

describe('the columns of a file', () => {
  it.each([
    [
      ['Vorname', 'Nachname', 'Firma', 'PLZ', 'Handy'],
      ['firstName', 'lastName', 'company', 'postalCode', 'mobile'],
    ],
    [
      ['FirstName', 'LAST_NAME', 'E-Mail Address'],
      ['firstName', 'lastName', 'email'],
    ],
    [
      ['Contact', 'Organisation', 'Tel.'],
      ['fullName', 'company', 'phone'],
    ],
    // Of two columns for one field the first has it; the parts of a name go before the whole.
    [
      ['Email', 'Work email', 'Name'],
      ['email', undefined, 'fullName'],
    ],
    [
      ['Name', 'First name', 'Last name'],
      [undefined, 'firstName', 'lastName'],
    ],
  ])('%j are known by their headings', (headings, fields) => {
    const mapping = guessColumns(headings, [])
    expect(headings.map((_, column) => mapping[column])).toEqual(fields)
  })
  it('are known by what is in them, where their headings say nothing', () => {
    // Days in figures are nobody's number.
    expect(
      guessColumns(
        ['Renewal', 'Seen'],
        [
          ['12/31/2026', '2026-11-23'],
          ['1/5/2027', '2026-11-24'],
        ],
      ),
    ).toEqual({})
    expect(
      guessColumns(
        ['a', 'b', 'c'],
        [
          ['p@cellar.example', '(607) 555-0142', 'x'],
          ['', '607.555.0143', 'y'],
          ['q@cellar.example', 'none', 'z'],
        ],
      ),
    ).toEqual({ 0: 'email', 1: 'phone' })
    expect(guessColumns(['a'], [['']])).toEqual({})
  })
  it('can be the custom fields, of people and of companies', () => {
    const own = [
      { id: 'f1', name: 'Aging rooms', of: 'prospect' as const },
      { id: 'f2', name: 'Stores', of: 'company' as const },
    ]
    expect(guessColumns(['aging rooms', 'Company stores'], [], own)).toEqual({ 0: 'custom:f1', 1: 'company:custom:f2' })
    expect(guessColumns(['stores'], [], own)).toEqual({ 0: 'company:custom:f2' })
  })
  it('give every field at most once, and only columns that are there, whatever a file says', () => {
    const heading = fc.oneof(
      fc.string(),
      fc.constantFrom(...Object.values(IMPORT_FIELDS), 'email', 'E-mail', 'name', 'zip'),
    )
    fc.assert(
      fc.property(
        fc.array(heading, { maxLength: 12 }),
        fc.array(fc.array(fc.string(), { maxLength: 12 }), { maxLength: 4 }),
        (headings, samples) => {
          const mapping = guessColumns(headings, samples)
          const fields = Object.values(mapping)
          expect(new Set(fields).size).toBe(fields.length)
          for (const column of Object.keys(mapping)) expect(Number(column)).toBeLessThan(headings.length)
        },
      ),
    )
  })
  it('tell people from companies, and neither', () => {
    expect(kindOfFile({ 0: 'fullName', 1: 'company' })).toBe('people')
    expect(kindOfFile({ 0: 'company', 1: 'industry', 2: 'company:custom:f2' })).toBe('companies')
    expect(kindOfFile({ 0: 'company', 1: 'email' })).toBeNull()
    expect(kindOfFile({ 0: 'city' })).toBeNull()
  })
})

describe('a cell that goes out', () => {
  // The characters that OWASP's page on CSV injection names.
  it('is never a formula, and otherwise as it was', () => {
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.constantFrom('=1+1', '+1', '-1', '@a', '\t=1', '\r=1', 'plain')), (cell) => {
        const out = harmless(cell)
        // A number like +1 212 555 0144 computes nothing.
        if (!/^\+\d[\d ().]{5,}$/.test(cell)) expect(out).not.toMatch(/^[=+\-@\t\r]/)
        expect(out === cell || out === `'${cell}`).toBe(true)
        if (/^[a-z]/i.test(cell)) expect(out).toBe(cell)
      }),
    )
  })
})

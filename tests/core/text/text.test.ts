import fc from 'fast-check'
import { parsePhoneNumberFromString } from 'libphonenumber-js'
import { describe, expect, it } from 'vitest'
import { guessColumns } from '../../../core/imports/columns'
import { detectDelimiter, detectEncoding, looksHeaded, UnreadableFile } from '../../../core/imports/dialect'
import { bareDomain, normalizeEmail } from '../../../core/text/email'
import {
  merge,
  customMergeNames,
  customMergeValues,
  renameInTemplate,
  templateFaults,
  type CustomMergeField,
} from '../../../core/text/merge'
import { companyKey, isStorable, nameKey, splitName } from '../../../core/text/names'
import { parsePhone, showPhone } from '../../../core/text/phone'
import { readProspectRow } from '../../../core/imports/prospectRow'

describe('email addresses', () => {
  it.each([
    [' Ottilie.Brandvold@Cloverdell.EXAMPLE ', 'ottilie.brandvold@cloverdell.example'],
    ['mailto:a+b@x.example', 'a+b@x.example'],
    ['<a@x.example>', 'a@x.example'],
    ["o'neil@x.example", "o'neil@x.example"],
    ['jörg@käse.example', 'jörg@käse.example'],
    // RFC 5321 4.5.3.1: 64 octets before the @, 254 in all.
    [`${'a'.repeat(64)}@x.example`, `${'a'.repeat(64)}@x.example`],
    [`${'a'.repeat(65)}@x.example`, null],
    [`a@${'b'.repeat(60)}.${'c'.repeat(60)}.${'d'.repeat(60)}.${'e'.repeat(60)}.${'f'.repeat(20)}.example`, null],
    ['a@@x.example', null],
    ['a@x', null],
    ['a b@x.example', null],
    ['.a@x.example', null],
    ['a..b@x.example', null],
    ['a@-x.example', null],
    ['', null],
    ['a@x.example, b@x.example', null],
  ])('%s is stored as %s', (raw, stored) => expect(normalizeEmail(raw)).toBe(stored))
  it('normalizing twice is normalizing once', () => {
    fc.assert(
      fc.property(fc.emailAddress(), (address) => {
        const once = normalizeEmail(address)
        if (once) expect(normalizeEmail(once)).toBe(once)
      }),
    )
  })
  it.each([
    ['https://www.marlpit.example/about?x=1', 'marlpit.example'],
    ['Marlpit.Example', 'marlpit.example'],
    ['not a site', null],
    ['localhost', null],
  ])('%s has the domain %s', (raw, domain) => expect(bareDomain(raw)).toBe(domain))
})

describe('phone numbers', () => {
  // NANP 555-0100 to 555-0199 and Ofcom's drama numbers are reserved for fiction; the reference is libphonenumber-js.
  it.each([
    ['(608) 555-0141', 'US', '+16085550141'],
    ['+44 20 7946 0321', 'US', '+442079460321'],
    ['020 7946 0321', 'GB', '+442079460321'],
    ['tel:+1-541-555-0117', null, '+15415550117'],
    ['608.555.0141 x12', 'US', '+16085550141'],
    ['555', 'US', null],
    ['hello', 'US', null],
    ['+1 608 555 01411234567890', null, null],
    ['020 7946 0321', null, null],
    ['0049 (0)30 901820', 'US', '+4930901820'],
    ['+44 (0)20 7946 0321', null, '+442079460321'],
    ['1-800-FLOWERS', 'US', '+18003569377'],
    ['(608) 555-0141 ext. 7', 'US', '+16085550141'],
    ['2015 - 2019', 'DE', null],
  ])('%s in %s is %s', (raw, country, number) => expect(parsePhone(raw, country)?.number ?? null).toBe(number))
  it('are E.164 (ITU-T: at most 15 digits) and the same as the reference library reads', () => {
    fc.assert(
      fc.property(fc.constantFrom('US', 'GB', 'DE', 'AU'), fc.stringMatching(/^[0-9() -]{5,14}$/), (country, raw) => {
        fc.pre(!/^(19|20)\d\d\s*-\s*(19|20)\d\d$/.test(raw.trim()))
        const read = parsePhone(raw, country)
        const reference = parsePhoneNumberFromString(raw, country as 'US')
        expect(read?.number ?? null).toBe(reference?.isPossible() ? reference.number : null)
        if (read) expect(read.number).toMatch(/^\+[1-9]\d{1,14}$/)
      }),
    )
  })
  it('are shown nationally to a reader in the same country', () => {
    expect(showPhone('+16085550141', 'US')).toBe('(608) 555-0141')
    expect(showPhone('+442079460321', 'US')).toBe('+44 20 7946 0321')
  })
})

describe('names', () => {
  it.each([
    ['Petra Lindqvist', 'Petra', 'Lindqvist'],
    ['Lindqvist, Petra', 'Petra', 'Lindqvist'],
    ['  Ana  Maria\u00a0Sandoval ', 'Ana Maria', 'Sandoval'],
    ['Imre', 'Imre', ''],
    ['John Smith, PhD', 'John', 'Smith'],
    ['Jane Doe, MBA, CPA', 'Jane', 'Doe'],
    ['John Smith Jr.', 'John', 'Smith Jr.'],
    ['Smith, John, Jr.', 'John', 'Smith Jr.'],
    ['Anna van der Berg', 'Anna', 'van der Berg'],
    ['Van Morrison', 'Van', 'Morrison'],
    ['Ludwig Van Beethoven', 'Ludwig', 'Van Beethoven'],
    ['Maria de la Cruz', 'Maria', 'de la Cruz'],
    ['John Smith MD', 'John', 'Smith'],
    ['Ba Ma', 'Ba', 'Ma'],
  ])('%s splits', (whole, firstName, lastName) => expect(splitName(whole)).toEqual({ firstName, lastName }))
  it('compare without marks, case and punctuation', () => {
    expect(nameKey('Zoë  O’Ńeil')).toBe(nameKey('zoe o neil'))
    expect(nameKey('Weißbach')).toBe('weissbach')
    expect(companyKey('The Marlpit Creamery, Inc.')).toBe('marlpit creamery')
    expect(companyKey('Limited')).toBe('limited')
    // Vowel signs are letters of their own in Devanagari and Thai: two people stay two.
    expect(nameKey('किरण')).not.toBe(nameKey('करण'))
    expect(nameKey('ปิติ')).not.toBe(nameKey('ปต'))
  })
  it('refuse what cannot be kept', () => {
    expect(['ok', 'a\0b', 'a\ud800', '😀'].map(isStorable)).toEqual([true, false, false, true])
  })
})

describe('files of rows', () => {
  const bytes = (text: string) => new TextEncoder().encode(text)
  it('are recognized by their encoding', () => {
    expect(detectEncoding(new Uint8Array([0xef, 0xbb, 0xbf, 65]))).toEqual({ encoding: 'utf8', bom: 3 })
    expect(detectEncoding(new Uint8Array([0xff, 0xfe, 65, 0]))).toEqual({ encoding: 'utf16le', bom: 2 })
    expect(detectEncoding(new Uint8Array([65, 0, 66, 0, 67, 0, 68, 0]))).toEqual({ encoding: 'utf16le', bom: 0 })
    expect(detectEncoding(new Uint8Array([0, 65, 0, 66, 0, 67, 0, 68]))).toEqual({ encoding: 'utf16be', bom: 0 })
    expect(detectEncoding(bytes('Name;Ort\nJörg;Köln'))).toEqual({ encoding: 'utf8', bom: 0 })
    expect(detectEncoding(new Uint8Array([74, 246, 114, 103, 10]))).toEqual({ encoding: 'windows1252', bom: 0 })
  })
  it('are refused when empty or no text', () => {
    expect(() => detectEncoding(new Uint8Array())).toThrow(UnreadableFile)
    expect(() => detectEncoding(new Uint8Array([0x89, 0x50, 0x4e, 0x47, 0, 0, 0, 13, 1, 2, 3, 4]))).toThrow(
      /not a text file/,
    )
  })
  it.each([
    ['a,b,c\n1,2,3', ','],
    ['a;b;c\n1,5;2;3', ';'],
    ['a\tb\n1\t2', '\t'],
    ['"a;x";b\n"c;d;e";f', ';'],
    ['a|b\n1|2', '|'],
    ['"x;y",b\n"z;w",d', ','],
    ['one column\nonly', ','],
  ])('%j is split at %j', (text, delimiter) => expect(detectDelimiter(text)).toBe(delimiter))
  it('have headings or not', () => {
    expect(looksHeaded(['Name', 'Email'])).toBe(true)
    expect(looksHeaded(['Petra', 'petra@x.example'])).toBe(false)
  })
  it('have their columns guessed by heading, then by what is in them', () => {
    expect(
      guessColumns(
        ['First Name', 'Surname', 'E-mail', 'Company', 'Whatever'],
        [['a', 'b', 'a@x.example', 'X', '(608) 555-0141']],
      ),
    ).toEqual({ 0: 'firstName', 1: 'lastName', 2: 'email', 3: 'company', 4: 'phone' })
    expect(guessColumns(['Name', 'Col 2'], [['Petra L', 'p@x.example']])).toEqual({ 0: 'fullName', 1: 'email' })
    expect(guessColumns(['Email', 'Email'], [])).toEqual({ 0: 'email' })
    expect(guessColumns(['Name', 'firstName', 'lastName'], [])).toEqual({ 1: 'firstName', 2: 'lastName' })
  })
})

describe('a row of a prospect file', () => {
  const mapping = { 0: 'fullName', 1: 'email', 2: 'phone', 3: 'country', 4: 'timeZone', 5: 'company' } as const
  const read = (...cells: string[]) =>
    readProspectRow(cells, mapping, { homeCountry: 'US', isPublic: (domain) => domain === 'mailbox.example' })
  it('is normalized', () => {
    expect(read('Lindqvist, Petra', 'P@Oxbow.example', '(541) 555-0117', 'us', '', 'Oxbow Cider, LLC')).toMatchObject({
      row: {
        firstName: 'Petra',
        lastName: 'Lindqvist',
        nameKey: 'petra lindqvist',
        email: 'p@oxbow.example',
        phone: '+15415550117',
        country: 'US',
        domain: 'oxbow.example',
        companyKey: 'oxbow cider',
      },
    })
  })
  it('takes no company from a public mail domain', () => {
    expect(read('A B', 'a@mailbox.example', '', '', '', '')).toMatchObject({ row: { domain: '' } })
  })
  it.each([
    [['A', 'a@@x'], 'bad email "a@@x"'],
    [['A', '', '555'], 'impossible phone "555"'],
    [['A', '', '', 'Atlantis'], 'unknown country "Atlantis"'],
    [['A', '', '', '', 'Mars/Olympus'], 'unknown time zone "Mars/Olympus"'],
    [['A', '', '', '', '', 'x'.repeat(2_000_000)], 'company: longer than 300 characters'],
    [['A', '', '', '', '', 'a\0b'], 'company: contains characters that cannot be kept'],
  ])('is kept without a cell that cannot be read, and says so: %#', (cells, reason) =>
    expect(read(...cells)).toMatchObject({
      row: { firstName: 'A', email: '', phone: '', country: '', company: '' },
      dropped: [reason],
    }),
  )
  it('is kept with a good phone beside a bad email, and says every reason', () => {
    expect(read('A', 'a@@x', '(541) 555-0117', 'Atlantis')).toMatchObject({
      row: { phone: '+15415550117' },
      dropped: ['bad email "a@@x"', 'unknown country "Atlantis"'],
    })
  })
  it('is not taken without a name, with every reason', () => {
    expect(read('', 'a@x.example')).toEqual({ error: 'no name' })
    expect(read('x'.repeat(2_000_000))).toEqual({ error: 'no name · fullName: longer than 300 characters' })
    expect(read('a\0b')).toEqual({ error: 'no name · fullName: contains characters that cannot be kept' })
  })
})

describe('templates', () => {
  it('fill in fields, and fall back where there is one', () => {
    expect(merge('Hello {{ first_name | default: "there" }} at {{company}}', { company: 'Oxbow' })).toEqual({
      text: 'Hello there at Oxbow',
      missing: [],
      error: null,
    })
    expect(merge('Hello {{ first_name }}', {})).toEqual({ text: 'Hello ', missing: ['first_name'], error: null })
    expect(merge('{% if company %}At {{ company }}{% endif %}.', { company: 'X' }).text).toBe('At X.')
  })
  it('know the custom fields by plain names, each its own', () => {
    const own = (
      id: string,
      name: string,
      of: 'prospect' | 'company' = 'prospect',
      kind: CustomMergeField['kind'] = 'text',
    ) => ({ id, of, name, kind })
    const names = customMergeNames([
      own('a', 'First name'),
      own('b', 'Größe (m²)', 'prospect', 'number'),
      own('c', 'größe m', 'prospect', 'choices'),
      own('d', '2nd site?', 'company', 'yesNo'),
      own('e5f60000-1', '倉庫'),
      own('f', 'Due', 'company', 'money'),
    ])
    expect([...names.keys()]).toEqual(
      ['first_name_2', 'grosse_m', 'grosse_m_2', 'company_field_2nd_site', 'field_e5f60000', 'company_due'].map(
        (name) => name.replace('grosse', 'gro_e'),
      ),
    )
    expect(customMergeValues(names, { b: 1234.5, c: ['a', 'b'], a: 'x' }, { d: false, f: 1200.5 })).toEqual({
      first_name_2: 'x',
      gro_e_m: '1,234.5',
      gro_e_m_2: 'a, b',
      company_field_2nd_site: 'no',
      company_due: '1,200.50',
    })
    expect(
      renameInTemplate('due {{ due | default: "due" }} {% if due %}{{ overdue }}{% endif %}', 'due', 'renewal'),
    ).toBe('due {{ renewal | default: "due" }} {% if renewal %}{{ overdue }}{% endif %}')
  })
  it('say what is broken, and where', () => {
    expect(templateFaults('Hello\n{{ first_name ')).toMatchObject([{ line: 2 }])
    expect(templateFaults('Hello {{ surname }}')).toEqual([{ line: 1, message: 'There is no field "surname"' }])
    expect(templateFaults('{% if x %}')).toHaveLength(1)
    expect(templateFaults('{{ first_name | shout }}')).toHaveLength(1)
    expect(templateFaults('{% include "/etc/passwd" %}')).toHaveLength(1)
    expect(templateFaults('Plain {{ first_name }}')).toEqual([])
  })
})

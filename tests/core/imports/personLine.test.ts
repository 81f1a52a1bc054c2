import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readPersonLine } from '../../../core/imports/personLine'

const person = (given: object) => ({ name: '', title: '', company: '', email: '', phone: '', ...given })

describe('a person in one line', () => {
  it.each([
    ['Petra Lindqvist, 607 555 0142', person({ name: 'Petra Lindqvist', phone: '607 555 0142' })],
    ['Petra Lindqvist 607-555-0142', person({ name: 'Petra Lindqvist', phone: '607-555-0142' })],
    [
      'Petra Lindqvist, Head of aging at Oxbow Cider Works, (607) 555-0142, petra@oxbow.example',
      person({
        name: 'Petra Lindqvist',
        title: 'Head of aging',
        company: 'Oxbow Cider Works',
        phone: '(607) 555-0142',
        email: 'petra@oxbow.example',
      }),
    ],
    ['Petra Lindqvist <petra@oxbow.example>', person({ name: 'Petra Lindqvist', email: 'petra@oxbow.example' })],
    [
      'petra@oxbow.example; Petra Lindqvist; Oxbow Cider Works',
      person({ name: 'Petra Lindqvist', company: 'Oxbow Cider Works', email: 'petra@oxbow.example' }),
    ],
    [
      'Petra Lindqvist at Oxbow Cider Works +44 20 7946 0301',
      person({ name: 'Petra Lindqvist', company: 'Oxbow Cider Works', phone: '+44 20 7946 0301' }),
    ],
    [
      'Petra Lindqvist\tHead of aging\tOxbow, Inc.\ttel:+16075550142',
      person({ name: 'Petra Lindqvist', title: 'Head of aging', company: 'Oxbow, Inc.', phone: '+16075550142' }),
    ],
    ['Petra | Buyer | @ Oxbow', person({ name: 'Petra', title: 'Buyer', company: 'Oxbow' })],
    ['Petra Lindqvist, Head of aging', person({ name: 'Petra Lindqvist', title: 'Head of aging' })],
    [
      'Petra Lindqvist, VP Sales, 607 555 0142',
      person({ name: 'Petra Lindqvist', title: 'VP Sales', phone: '607 555 0142' }),
    ],
    ['Petra Lindqvist, Head Start Works', person({ name: 'Petra Lindqvist', company: 'Head Start Works' })],
    ['Petra Lindqvist, Overhead Doors', person({ name: 'Petra Lindqvist', company: 'Overhead Doors' })],
    ['Petra, at Oxbow', person({ name: 'Petra', company: 'Oxbow' })],
    ['Petra Lindqvist, Cellar 12, Room 4', person({ name: 'Petra Lindqvist', title: 'Cellar 12', company: 'Room 4' })],
    ['   ', person({})],
    ['', person({})],
    [',,;', person({})],
  ])('"%s"', (line, read) => expect(readPersonLine(line)).toEqual(read))

  const word = fc.stringMatching(/^[A-Z][a-zé]{1,9}$/).filter((text) => text.toLowerCase() !== 'at')
  const words = fc.array(word, { minLength: 1, maxLength: 3 }).map((all) => all.join(' '))
  const number = fc.stringMatching(/^[2-9][0-9]{2} 555 01[0-9]{2}$/)
  it('is read back as it was put, wherever number and address stand', () => {
    const line = fc.record({
      name: words,
      title: words,
      company: words,
      phone: number,
      email: fc.stringMatching(/^[a-z]{1,8}\.[a-z]{1,8}@[a-z]{2,8}\.example$/),
      at: fc.boolean(),
      order: fc.shuffledSubarray(['phone', 'email'] as const),
      first: fc.boolean(),
    })
    fc.assert(
      fc.property(line, ({ order, at, first, ...given }) => {
        const reach = order.map((which) => given[which])
        const who = [given.name, at ? `${given.title} at ${given.company}` : `${given.title}, ${given.company}`]
        const read = readPersonLine((first ? [...reach, ...who] : [...who, ...reach]).join(', '))
        expect(read).toEqual({
          name: given.name,
          title: given.title,
          company: given.company,
          phone: order.includes('phone') ? given.phone : '',
          email: order.includes('email') ? given.email : '',
        })
      }),
      { numRuns: 500 },
    )
  })
  it('never fails, and makes nothing up', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (line) => {
        for (const value of Object.values(readPersonLine(line))) {
          for (const part of value.split(/[\s,]+/)) expect(line.normalize('NFC')).toContain(part)
        }
      }),
      { numRuns: 500 },
    )
  })
  it('is read to its thousandth character, however long it is', () => {
    const long = `Petra, ${'1 '.repeat(50_000)}@${'('.repeat(50_000)}`
    expect(readPersonLine(long)).toEqual(readPersonLine(long.slice(0, 1_000)))
  })
  it('does not take two years for a number, and leaves an extension out of the name', () => {
    expect(readPersonLine('Petra Lindqvist, Head of aging 2019-2024, Oxbow')).toMatchObject({
      name: 'Petra Lindqvist',
      phone: '',
    })
    expect(readPersonLine('Petra Lindqvist, 607 555 0142 ext. 7, Oxbow')).toEqual({
      name: 'Petra Lindqvist',
      title: '',
      company: 'Oxbow',
      email: '',
      phone: '607 555 0142',
    })
  })
  it('takes its time with nothing', () => {
    // Each try at an address ends with its word: what is hard to read is read as quickly as anything else.
    expect(readPersonLine('a@'.repeat(500))).toMatchObject({ email: '' })
    expect(readPersonLine('Ana <mailto:ana@oxbow.example>, Owner at Oxbow')).toMatchObject({
      name: 'Ana',
      email: 'ana@oxbow.example',
      title: 'Owner',
      company: 'Oxbow',
    })
  })
})

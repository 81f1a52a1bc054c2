import { parse } from 'csv-parse/sync'
import { stringify } from 'csv-stringify/sync'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { CSV } from '../../../core/imports/columns'
import { exportJson, exportRows, type DialerExport } from '../../../core/dialing/exportFile'
import { contentOf, readResult, readTime, resultColumns, type ResultContent } from '../../../core/dialing/resultRow'

const person = (n: number, more: object = {}) => ({
  id: `0c5b3a1e-0000-4000-8000-00000000000${n}`,
  number: `+1212555010${n}`,
  firstName: 'Ada',
  lastName: 'Fields, the second',
  title: null,
  company: '=HYPERLINK("x")',
  timeZone: 'America/New_York',
  ...more,
})
const given: DialerExport = {
  campaign: 'Cold rooms',
  callerNumbers: ['+12125550190', '+12125550191'],
  message: 'Hello,\n"we" called',
  people: [person(1), person(2), person(3)],
}

describe('people for another dialer', () => {
  it('are a row each, with the numbers to call from in turn, and no cell that a spreadsheet would run', () => {
    const rows = parse(stringify(exportRows(given), CSV), { columns: true }) as Record<string, string>[]
    expect(rows.map((row) => row.caller_number)).toEqual(['+12125550190', '+12125550191', '+12125550190'])
    expect(rows[0]).toMatchObject({
      id: person(1).id,
      number: '+12125550101',
      last_name: 'Fields, the second',
      title: '',
      message: given.message,
      campaign: 'Cold rooms',
    })
    expect(rows[0]!.company).not.toMatch(/^=/)
  })

  it('are the same as JSON', () => {
    const { people, ...about } = JSON.parse(exportJson({ ...given, callerNumbers: [] })) as {
      people: object[]
      campaign: string
    }
    expect(about).toEqual({ campaign: 'Cold rooms', callerNumbers: [], message: given.message })
    expect(people[2]).toEqual({ ...person(3), callerNumber: null })
  })
})

const NOW = Date.UTC(2026, 10, 28, 15)
const row = (more: Partial<ResultContent>): ResultContent => ({
  id: '1',
  number: '',
  outcome: 'Busy',
  calledAt: '',
  caller: '',
  note: '',
  callBackAt: '',
  reason: '',
  ...more,
})

describe('a result of another dialer', () => {
  it('is found in columns by their usual names, in any order', () => {
    const columns = resultColumns(['Notes', 'Phone Number', 'Disposition', 'Agent Email', 'callBackAt', 'Other'])
    expect(columns).toEqual({ note: 0, number: 1, outcome: 2, caller: 3, callBackAt: 4 })
    expect(contentOf(['', ' +1 212 555 0101 ', 'Busy'], columns)).toEqual(
      row({ id: '', number: '+1 212 555 0101', outcome: 'Busy' }),
    )
  })

  it('reads times with an offset, in the team’s zone, and as Americans write them', () => {
    const at = Date.UTC(2026, 10, 27, 19, 14)
    for (const text of [
      '2026-11-27T14:14:00-05:00',
      '2026-11-27T19:14:00Z',
      '2026-11-27T14:14',
      '11/27/2026 2:14 PM',
    ]) {
      expect(readTime(text, 'America/New_York')).toBe(at)
    }
    for (const text of ['yesterday', '2026-11-27', '13/45/2026 2:14 PM', '']) {
      expect(readTime(text, 'America/New_York')).toBeNull()
    }
  })

  it('says at which field it cannot be read', () => {
    const fieldOf = (more: Partial<ResultContent>) => {
      const read = readResult(row(more), 'America/New_York', NOW)
      return 'field' in read ? read.field : null
    }
    expect(fieldOf({})).toBeNull()
    expect(fieldOf({ id: '', number: '212 555 0101' })).toBeNull()
    expect(fieldOf({ id: '' })).toBe('number')
    expect(fieldOf({ outcome: '' })).toBe('outcome')
    expect(fieldOf({ calledAt: 'noon' })).toBe('calledAt')
    expect(fieldOf({ calledAt: '2026-11-29T10:00Z' })).toBe('calledAt')
    expect(fieldOf({ callBackAt: '2026-11-01T10:00Z' })).toBe('callBackAt')
    expect(fieldOf({ callBackAt: '2026-12-01T10:00Z' })).toBeNull()
  })

  it('is read or refused, whatever is in it', () => {
    fc.assert(
      fc.property(fc.array(fc.string(), { maxLength: 8 }), fc.array(fc.string(), { maxLength: 8 }), (head, cells) => {
        const read = readResult(contentOf(cells, resultColumns(head)), 'America/New_York', NOW)
        expect('field' in read || 'calledAt' in read).toBe(true)
      }),
    )
  })
})

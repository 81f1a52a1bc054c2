import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { isEither, orderOf, readAmount, readDay } from '../../../core/text/dates'

describe('a day in a file', () => {
  it.each([
    ['2026-12-31', '2026-12-31'],
    ['2026-12-31T10:00:00Z', '2026-12-31'],
    ['12/31/2026', '2026-12-31'],
    ['31.12.2026', '2026-12-31'],
    ['12-31-26', '2026-12-31'],
    ['1/5/2026', '2026-01-05'],
    ['Dec 31, 2026', '2026-12-31'],
    ['31 December 2026', '2026-12-31'],
    ['Thursday, December 31, 2026', '2026-12-31'],
    ['12/31/1999 8:30', '1999-12-31'],
    ['1/5/71', '1971-01-05'],
    ['13/45/2026', null],
    ['2/30/2026', null],
    ['about 5', null],
    ['', null],
    ['12312026', null],
  ])('%s, with the month first, is %s', (text, day) => expect(readDay(text, 'month')).toBe(day))
  it('is another one where the day comes first, if both can be', () => {
    expect([readDay('1/5/2026', 'day'), readDay('12/31/2026', 'day')]).toEqual(['2026-05-01', '2026-12-31'])
    expect([isEither('1/5/2026'), isEither('5/5/2026'), isEither('1/31/2026')]).toEqual([true, false, false])
  })
  it('tells the order of a whole column, if one of them does', () => {
    expect([orderOf(['1/5/2026', '2/13/2026']), orderOf(['1/5/2026', '13/2/2026']), orderOf(['1/5/2026', ''])]).toEqual(
      ['month', 'day', null],
    )
  })
  it('comes back as it was written, in either order', () => {
    const days = fc.date({
      min: new Date(Date.UTC(1971, 0)),
      max: new Date(Date.UTC(2069, 11, 31)),
      noInvalidDate: true,
    })
    fc.assert(
      fc.property(days, (date) => {
        const [year, month, day] = date.toISOString().slice(0, 10).split('-').map(Number) as [number, number, number]
        expect(readDay(`${month}/${day}/${year}`, 'month')).toBe(date.toISOString().slice(0, 10))
        expect(readDay(`${day}.${month}.${year}`, 'day')).toBe(date.toISOString().slice(0, 10))
      }),
    )
  })
})

describe('a sum in a file', () => {
  it.each([
    ['$1,250', 1250],
    ['1,250.50', 1250.5],
    ['USD 300', 300],
    ['1 250 EUR', 1250],
    ['(300)', -300],
    ['-5', -5],
    ['12', 12],
    ['about 5', null],
    ['1,25', null],
    ['', null],
  ])('%s is %s', (text, amount) => expect(readAmount(text)).toBe(amount))
})

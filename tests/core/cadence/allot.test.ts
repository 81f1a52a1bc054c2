import fc from 'fast-check'
import { DateTime } from 'luxon'
import { beforeEach, describe, expect, it } from 'vitest'
import { allotSlots, capOf, projectQueue, type Sender } from '../../../core/cadence/allot'
import { placeOfWindow, senderPlace, type SendingWindow } from '../../../core/calendar/sendingWindow'
import { nextOpen } from '../../../core/calendar/window'
import { HOUR } from '../../../core/instant'
import { NOW, OFFICE_HOURS } from '../../fixtures/engineStates'

const TIME_ZONE = 'America/New_York'
const ny = { timeZone: TIME_ZONE, country: 'US', region: 'NY' }
const iso = (at: number) => DateTime.fromMillis(at, { zone: TIME_ZONE }).toFormat('yyyy-MM-dd HH:mm')
const sender: Sender = {
  timeZone: TIME_ZONE,
  country: 'US',
  cap: 3,
  ramp: null,
  daysSent: 0,
  spacing: 60,
  jitter: 0,
  domainCap: null,
  day: null,
  given: 0,
  domains: {},
  lastSlotAt: null,
}

describe('slots for mail', () => {
  const wanted = (count: number) =>
    Array.from({ length: count }, (_, index) => ({
      id: `m${index}`,
      window: OFFICE_HOURS,
      place: ny,
      domain: 'dairy.example',
    }))
  /** Asks again whenever something that waits is due, until everything has its moment; gives the moments by id. */
  function allotAll(mails: Parameters<typeof allotSlots>[0], given: Sender, from: number): Record<string, number> {
    const moments: Record<string, number> = {}
    let waiting = [...mails]
    let status = given
    for (let now = from, rounds = 0; waiting.length && rounds < 500; rounds++) {
      const {
        slots,
        waits,
        sender: used,
      } = allotSlots(
        waiting.filter((mail) => (due[mail.id] ?? 0) <= now),
        status,
        now,
        {},
      )
      Object.assign(moments, slots)
      for (const [id, { at }] of Object.entries(waits)) due[id] = at
      status = used
      waiting = waiting.filter((mail) => moments[mail.id] === undefined)
      now = Math.min(...waiting.map((mail) => due[mail.id]!))
    }
    return moments
  }
  let due: Record<string, number> = {}
  beforeEach(() => {
    due = {}
  })

  it('keep the sender’s spacing and daily cap, and go on the next business day', () => {
    expect(Object.values(allotAll(wanted(5), sender, NOW)).map(iso)).toEqual([
      '2026-11-23 10:42',
      '2026-11-23 10:43',
      '2026-11-23 10:44',
      '2026-11-24 08:00',
      '2026-11-24 08:01',
    ])
  })
  it('are not held up by a prospect whose window is closed', () => {
    const sydney = {
      id: 'far',
      window: OFFICE_HOURS,
      place: { timeZone: 'Australia/Sydney', country: 'AU', region: 'NSW' },
      domain: 'far.example',
    }
    const { slots, waits } = allotSlots([sydney, ...wanted(2)], sender, NOW, {})
    expect(Object.entries(slots).map(([id, at]) => [id, iso(at)])).toEqual([
      ['m0', '2026-11-23 10:42'],
      ['m1', '2026-11-23 10:43'],
    ])
    // 8:00 on Tuesday in Sydney.
    expect([iso(waits.far!.at), waits.far!.why]).toEqual(['2026-11-23 16:00', 'window'])
  })
  it('are none where the cap is 0', () => {
    const { slots, waits } = allotSlots(wanted(2), { ...sender, cap: 0 }, NOW, {})
    expect(slots).toEqual({})
    expect(Object.values(waits).map(({ at, why }) => [iso(at), why])).toEqual([
      ['2026-11-24 08:00', 'cap'],
      ['2026-11-24 08:00', 'cap'],
    ])
  })
  it('in any order: never over a cap, never closer than the spacing, never before now, never at night', () => {
    const zones = fc.constantFrom(TIME_ZONE, 'America/Los_Angeles', 'Europe/Berlin', 'Asia/Kolkata')
    fc.assert(
      fc.property(
        fc.array(zones, { minLength: 1, maxLength: 25 }),
        fc.integer({ min: 1, max: 6 }),
        fc.integer({ min: 0, max: 900 }),
        fc.integer({ min: 0, max: 6 * 24 }),
        fc.record({
          jitter: fc.constantFrom(0, 0.5, 2),
          domainCap: fc.constantFrom(null, 1, 3),
          ramp: fc.constantFrom(null, { first: 1, more: 1 }),
        }),
        (recipients, cap, spacing, later, more) => {
          due = {}
          const now = NOW + later * HOUR
          const mails = recipients.map((timeZone, index) => ({
            id: `m${index}`,
            window: OFFICE_HOURS,
            place: { timeZone, country: null, region: null },
            domain: `${index % 3}.example`,
          }))
          const moments = allotAll(mails, { ...sender, cap, spacing, ...more }, now)
          const days = new Map<string, number>()
          const domains = new Map<string, number>()
          mails.forEach(({ id, place, domain }) => {
            const there = DateTime.fromMillis(moments[id]!, { zone: place.timeZone })
            expect(moments[id]).toBeGreaterThanOrEqual(now)
            expect(there.weekday).toBeLessThanOrEqual(5)
            expect(there.hour * 60 + there.minute).toBeGreaterThanOrEqual(480)
            expect(there.hour * 60 + there.minute).toBeLessThan(1020)
            const day = iso(moments[id]!).slice(0, 10)
            days.set(day, (days.get(day) ?? 0) + 1)
            const to = `${day} ${domain}`
            domains.set(to, (domains.get(to) ?? 0) + 1)
          })
          expect(Math.max(...days.values())).toBeLessThanOrEqual(cap)
          if (more.domainCap) expect(Math.max(...domains.values())).toBeLessThanOrEqual(more.domainCap)
          const byDay = [...days].sort().map(([, count]) => count)
          if (more.ramp) byDay.forEach((count, index) => expect(count).toBeLessThanOrEqual(1 + index))
          // What the queue page says is what then happens.
          expect(
            projectQueue(
              mails.map((mail) => ({ ...mail, at: now })),
              { ...sender, cap, spacing, ...more },
              now,
              {},
            ),
          ).toEqual(moments)
          const given = mails.map(({ id }) => moments[id]!).sort((a, b) => a - b)
          given.slice(1).forEach((at, index) => expect(at - given[index]!).toBeGreaterThanOrEqual(spacing * 1_000))
        },
      ),
      { numRuns: 60 },
    )
  })
  it('never lie outside the recipient’s window', () => {
    const late = DateTime.fromISO('2026-11-23T16:59', { zone: TIME_ZONE }).toMillis()
    expect(Object.values(allotAll(wanted(3), { ...sender, cap: 99 }, late)).map(iso)).toEqual([
      '2026-11-23 16:59',
      '2026-11-24 08:00',
      '2026-11-24 08:01',
    ])
  })
  it('pause longer than the spacing by chance, up to the share that is set, and the same whenever it is asked', () => {
    const { slots } = allotSlots(wanted(50), { ...sender, cap: 99, jitter: 0.5 }, NOW, {})
    const times = Object.values(slots)
    const pauses = times.slice(1).map((at, index) => (at - times[index]!) / 1_000)
    expect(Math.min(...pauses)).toBeGreaterThanOrEqual(60)
    expect(Math.max(...pauses)).toBeLessThanOrEqual(90.001)
    expect(new Set(pauses).size).toBeGreaterThan(40)
    expect(allotSlots(wanted(50), { ...sender, cap: 99, jitter: 0.5 }, NOW, {}).slots).toEqual(slots)
  })
  it('are capped for each receiving domain, without holding up others', () => {
    const mixed = wanted(4).map((mail, index) => ({ ...mail, domain: index === 3 ? 'cider.example' : mail.domain }))
    const { slots, waits } = allotSlots(mixed, { ...sender, cap: 9, domainCap: 2 }, NOW, {})
    expect(Object.keys(slots)).toEqual(['m0', 'm1', 'm3'])
    expect(waits.m2).toEqual({
      at: DateTime.fromISO('2026-11-24T08:00', { zone: TIME_ZONE }).toMillis(),
      why: 'domain',
    })
  })
  it('start slowly with a new sender: so many on the first day, more on each day with email after it', () => {
    const slow = { ...sender, cap: 6, spacing: 0, ramp: { first: 2, more: 2 } }
    const days = Object.values(allotAll(wanted(20), slow, NOW)).map((at) => iso(at).slice(5, 10))
    const counts = new Map<string, number>()
    for (const day of days) counts.set(day, (counts.get(day) ?? 0) + 1)
    expect([...counts]).toEqual([
      ['11-23', 2],
      ['11-24', 4],
      ['11-25', 6],
      ['11-26', 6],
      ['11-27', 2],
    ])
    expect(capOf({ cap: 6, ramp: slow.ramp, daysSent: 40 })).toBe(6)
  })
  it('go to many in the default window where today had no room', () => {
    const anyTime = { ...OFFICE_HOURS, hours: { days: [1, 2, 3, 4, 5, 6, 7], from: 0, to: 1440 } }
    const toMany = wanted(2).map((mail) => ({ ...mail, window: anyTime, later: OFFICE_HOURS }))
    expect(iso(allotSlots(toMany, { ...sender, cap: 1 }, NOW, {}).waits.m1!.at)).toBe('2026-11-24 08:00')
  })
})

describe('a sending window', () => {
  const berlin = { timeZone: 'Europe/Berlin', country: 'DE', region: null }
  const there = { timeZone: TIME_ZONE, country: 'US' }
  const holidays = { US: { '2026-11-26': 'Thanksgiving Day' }, DE: { '2026-12-25': 'First Christmas Day' } }
  const opens = (change: Partial<SendingWindow>, at: string) => {
    const window = { ...OFFICE_HOURS, ...change }
    const from = DateTime.fromISO(at, { zone: TIME_ZONE }).toMillis()
    return iso(nextOpen(from, window.hours, placeOfWindow(window, berlin, there), holidays))
  }
  it('opens by the prospect’s clock, or by the sender’s', () => {
    expect(opens({}, '2026-11-23T01:00')).toBe('2026-11-23 02:00')
    expect(opens({ clock: 'sender' }, '2026-11-23T01:00')).toBe('2026-11-23 08:00')
  })
  it('is closed on the prospect’s holidays, the team’s, or none', () => {
    expect(opens({ clock: 'sender' }, '2026-11-26T09:00')).toBe('2026-11-26 09:00')
    expect(opens({ clock: 'sender', holidays: 'team' }, '2026-11-26T09:00')).toBe('2026-11-27 08:00')
    expect(opens({ clock: 'sender' }, '2026-12-25T09:00')).toBe('2026-12-28 08:00')
    expect(opens({ clock: 'sender', holidays: 'none' }, '2026-12-25T09:00')).toBe('2026-12-25 09:00')
  })
  it('takes the team’s place for a user who is not known', () => {
    const known = { userZones: { imani: 'Europe/London' }, timeZone: TIME_ZONE, country: 'US' }
    expect([
      senderPlace(known, 'imani').timeZone,
      senderPlace(known, 'gone').timeZone,
      senderPlace(known, null),
    ]).toEqual(['Europe/London', TIME_ZONE, there])
  })
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { allottedVersion, textOfVersion, versionFaults, versionName } from '../../../core/cadence/versions'

const version = (id: string, weight: number, given = {}) => ({
  id,
  weight,
  subject: 'Subject',
  body: 'Text',
  html: null,
  ...given,
})
const step = (weight: number, ...versions: ReturnType<typeof version>[]) => ({
  id: 'step',
  weight,
  subject: 'Subject',
  body: 'Own',
  html: null,
  versions,
})
const people = Array.from(
  { length: 20_000 },
  (_, index) => `0b8b3c1e-0000-4000-8000-${String(index).padStart(12, '0')}`,
)

describe('versions of a step’s text', () => {
  it('are not allotted where there is one text only', () => {
    expect(allottedVersion(step(1), people[0]!)).toBeNull()
  })
  it('each prospect gets one, and the same one whenever it is asked', () => {
    const asked = fc.record({ weights: fc.array(fc.nat(100), { minLength: 2, maxLength: 4 }), person: fc.uuid() })
    fc.assert(
      fc.property(asked, ({ weights: [own, ...others], person }) => {
        const tried = step(own!, ...others.map((weight, index) => version(`v${index}`, weight)))
        const given = allottedVersion(tried, person)
        expect(allottedVersion(tried, person)).toBe(given)
        const weightOf = [{ id: 'step', weight: own! }, ...tried.versions].find(({ id }) => id === given)!.weight
        if (own! + others.reduce((sum, weight) => sum + weight, 0) > 0) expect(weightOf).toBeGreaterThan(0)
        else expect(given).toBe('step')
      }),
    )
  })
  it('are given out as the weights say', () => {
    const tried = step(1, version('b', 2), version('c', 0), version('d', 1))
    const counts: Record<string, number> = {}
    for (const person of people) {
      counts[allottedVersion(tried, person)!] = (counts[allottedVersion(tried, person)!] ?? 0) + 1
    }
    expect(counts.c).toBeUndefined()
    // Pearson's chi-squared with 2 degrees of freedom: 13.82 is its 99.9 % point (NIST/SEMATECH e-Handbook, 1.3.6.7.4).
    const expected = { step: 5_000, b: 10_000, d: 5_000 }
    const chi = Object.entries(expected).reduce((sum, [id, count]) => sum + (counts[id]! - count) ** 2 / count, 0)
    expect(chi).toBeLessThan(13.82)
  })
  it('of two steps are allotted independently', () => {
    const [one, two] = ['s1', 's2'].map((id) => ({ ...step(1, version('b', 1)), id }))
    const both = people.filter((id) => allottedVersion(one!, id) === 'b' && allottedVersion(two!, id) === 'b')
    expect(both.length / people.length).toBeGreaterThan(0.23)
    expect(both.length / people.length).toBeLessThan(0.27)
  })
  it('say their own text; one that was deleted the step’s', () => {
    const tried = step(1, version('b', 1))
    expect(textOfVersion(tried, 'b').body).toBe('Text')
    expect([null, 'step', 'deleted'].map((id) => textOfVersion(tried, id).body)).toEqual(['Own', 'Own', 'Own'])
    expect([0, 1, 3].map(versionName)).toEqual(['A', 'B', 'D'])
  })
  it.each([
    ['nobody would get any', step(0, version('b', 0)), [[-1, 'weight']]],
    ['there are five', step(1, ...['b', 'c', 'd', 'e'].map((id) => version(id, 1))), [[-1, 'weight']]],
    ['two are the same', step(1, version('step', 1)), [[-1, 'weight']]],
    ['one has no text', step(1, version('b', 1, { body: ' ' })), [[0, 'body']]],
    ['one has no subject', step(1, version('b', 1), version('c', 1, { subject: '' })), [[1, 'subject']]],
    ['one would leave the thread', { ...step(1, version('b', 1)), subject: '' }, [[0, 'subject']]],
    ['all is well', step(0, version('b', 1, { body: '', html: '<p>x</p>' })), []],
  ])('are checked: %s', (_, tried, expected) => {
    expect(versionFaults(tried).map(({ index, field }) => [index, field])).toEqual(expected)
  })
})

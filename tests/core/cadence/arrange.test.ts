import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  blockOf,
  inReadingOrder,
  rowsOf,
  stepsOfRows,
  stretchFrom,
  withCopies,
  withMoved,
  withoutStep,
  withStep,
} from '../../../core/cadence/arrange'

interface Drawn {
  id: string
  wayId: string | null
  ways: { id: string }[]
}
const step = (id: string, wayId: string | null = null, ...ways: string[]): Drawn => ({
  id,
  wayId,
  ways: ways.map((way) => ({ id: way })),
})
/** A call, a branch of two ways with a branch in the first of them, and a call behind. */
const STEPS = [
  step('call'),
  step('fork', null, 'yes', 'no'),
  step('inner', 'yes', 'a', 'b'),
  step('deep', 'b'),
  step('after', 'yes'),
  step('else', 'no'),
  step('last'),
]
const ids = (steps: readonly Drawn[]) => steps.map(({ id }) => id)
const get = (id: string) => STEPS.find((one) => one.id === id)!

describe('the list of steps', () => {
  it('sets the ways of a branch in, under their headings', () => {
    const rows = rowsOf(STEPS).map((row) => {
      const margin = ' '.repeat(row.depth)
      if (row.type === 'step') return margin + row.step.id
      return margin + (row.type === 'way' ? `> ${row.way.id}` : `< ${row.branch.id}`)
    })
    expect(rows).toEqual([
      'call',
      'fork',
      ' > yes',
      '  inner',
      '   > a',
      '   > b',
      '    deep',
      '   < inner',
      '  after',
      ' > no',
      '  else',
      ' < fork',
      'last',
    ])
  })
  it('is read back, also after a line was dragged onto another way', () => {
    expect(stepsOfRows(rowsOf(STEPS))).toEqual(STEPS)
    const rows = rowsOf(STEPS)
    const [dragged] = rows.splice(0, 1)
    rows.splice(rows.findIndex((row) => row.type === 'way' && row.way.id === 'no') + 1, 0, dragged!)
    const moved = stepsOfRows(rows)
    expect(ids(moved)).toEqual(['fork', 'inner', 'deep', 'after', 'call', 'else', 'last'])
    expect(moved.map(({ wayId }) => wayId)).toEqual([null, 'yes', 'b', 'yes', 'no', 'no', null])
  })
  it('takes a new step behind another with all that lies within it, or at the end of a way', () => {
    const made = step('new')
    expect(ids(withStep(STEPS, made, { stepId: 'fork' }))).toEqual([...ids(STEPS).slice(0, 6), 'new', 'last'])
    expect(withStep(STEPS, made, { stepId: 'inner' })[4]).toEqual(step('new', 'yes'))
    expect(withStep(STEPS, made, { wayId: 'a' })[3]).toEqual(step('new', 'a'))
    expect(withStep([], made, { wayId: null })).toEqual([made])
  })
  it('loses a branch with its ways, and moves steps among those of their way alone', () => {
    expect(ids(withoutStep(STEPS, get('fork')))).toEqual(['call', 'last'])
    expect(ids(withMoved(STEPS, get('inner'), 1))).toEqual(['call', 'fork', 'after', 'inner', 'deep', 'else', 'last'])
    expect(ids(withMoved(STEPS, get('call'), 1))).toEqual(['fork', 'inner', 'deep', 'after', 'else', 'call', 'last'])
    expect(withMoved(STEPS, get('else'), 1)).toEqual(STEPS)
  })
  it('keeps every step, however it is arranged', () => {
    fc.assert(
      fc.property(
        fc.shuffledSubarray(STEPS, { minLength: STEPS.length }),
        fc.nat(6),
        fc.boolean(),
        (mixed, n, down) => {
          const ordered = inReadingOrder(mixed)
          expect(new Set(ordered)).toEqual(new Set(STEPS))
          const moved = withMoved(ordered, ordered[n]!, down ? 1 : -1)
          expect(new Set(moved)).toEqual(new Set(STEPS))
          expect(inReadingOrder(moved)).toEqual(moved)
          const block = blockOf(ordered, ordered[n]!)
          expect(withoutStep(ordered, ordered[n]!)).toHaveLength(STEPS.length - block.length)
        },
      ),
    )
  })
})

describe('a copy of steps', () => {
  let made = 0
  const newId = () => `new${++made}`
  it('is of one step with all that lies within it, or of all from it to the end of its way', () => {
    expect(ids(stretchFrom(STEPS, get('inner'), false))).toEqual(['inner', 'deep'])
    expect(ids(stretchFrom(STEPS, get('fork'), true))).toEqual(['fork', 'inner', 'deep', 'after', 'else', 'last'])
  })
  it('goes behind a step on its way, or to the end of another one, with ways of its own', () => {
    made = 0
    const copied = stretchFrom(STEPS, get('inner'), false)
    const pasted = withCopies(STEPS, copied, { wayId: 'no' }, newId)
    expect(ids(pasted)).toEqual(['call', 'fork', 'inner', 'deep', 'after', 'else', 'new3', 'new4', 'last'])
    const [branch, inside] = pasted.filter(({ id }) => id.startsWith('new')) as [Drawn, Drawn]
    expect(branch).toMatchObject({ wayId: 'no', ways: [{ id: 'new1' }, { id: 'new2' }] })
    expect(inside.wayId).toBe('new2')
    expect(ids(withCopies(STEPS, [get('last')], { stepId: 'fork' }, newId))).toEqual([
      ...ids(STEPS.slice(0, 6)),
      `new${made}`,
      'last',
    ])
  })
})

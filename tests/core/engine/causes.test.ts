import { describe, expect, it } from 'vitest'
import { EMAIL_TYPES, valuesOf } from '../../../core/enumerations'
import { BARRIERS, RULES, STOPS, barrierInWords, ruleInWords, stopInWords } from '../../../core/engine/state/causes'
import type { Barrier, CauseNames, CauseValues, Rule, Stop } from '../../../core/engine/state/causes'

const names: CauseNames = {
  stage: (id) => `stage ${id}`,
  step: (id) => `step ${id}`,
  way: (_, id) => (id === 'unnamed' ? null : `way ${id}`),
}
const values: CauseValues = {
  days: 3,
  every: { amount: 2, unit: 'weeks' },
  stageId: 'a',
  stepId: 'b',
  wayId: 'c',
  stop: 'company_in_deal',
  barrier: 'no_marketing_email',
}

describe('the rules by which the program acts', () => {
  it('each has its sentence, with all its values in it', () => {
    for (const rule of Object.keys(RULES) as Rule[]) {
      const sentence = ruleInWords(rule, values, names)
      expect(sentence, rule).toMatch(/^[A-Z“s].*[^.]$/)
      expect(sentence, rule).not.toMatch(/undefined|null|\[object/)
    }
    expect(ruleInWords('stepLeftOut', values, names)).toBe('step b: left out, takes no marketing email')
    expect(ruleInWords('nextStepGoal', values, names)).toContain('every 2 weeks')
    expect(ruleInWords('wayTaken', { ...values, wayId: 'unnamed' }, names)).toBe('“step b”: otherwise')
    expect(ruleInWords('stopped', values, names)).toBe('The company is in a deal')
    expect(ruleInWords('emailNotSent', {}, names)).toBe('The email could not go out')
  })
  it('say a stop of the one whom it is about', () => {
    for (const stop of Object.keys(STOPS) as Stop[]) {
      expect(stopInWords(stop, 'Ann Ames', 'Acme')).toMatch(stop.startsWith('company') ? /^Acme is/ : /^Ann Ames is/)
    }
  })
  it('say every barrier, also by type of email', () => {
    const barriers = [...Object.keys(BARRIERS), ...valuesOf(EMAIL_TYPES).map((type) => `no_${type}_email`)]
    expect(new Set(barriers.map((barrier) => barrierInWords(barrier as Barrier))).size).toBe(barriers.length)
  })
})

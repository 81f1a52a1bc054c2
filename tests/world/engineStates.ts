import { emptyState, type EngineState } from '../../core/engine/engineState'
import type { Playbook } from '../../core/engine/playbook'
import type { Step, StepKind } from '../../core/cadence/steps'

/** Monday 23 November 2026, 10:42 in New York. */
export const NOW = Date.UTC(2026, 10, 23, 15, 42)

export const step = (
  cadenceId: string,
  position: number,
  kind: StepKind,
  amount = 0,
  unit: Step['wait']['unit'] = 'hours',
): Step => ({
  id: `${cadenceId}-${position}`,
  cadenceId,
  position,
  kind,
  wait: { amount, unit },
  name: `${kind} ${position}`,
})

/** A playbook with a mixed cadence and an outcome of every sort. */
export function playbook(): Playbook {
  const outcome = (id: string, rest: object) => ({
    id,
    name: id,
    position: 0,
    requiredInputs: [],
    reasons: [],
    actions: [],
    archived: false,
    countsAs: 'attempt' as const,
    ...rest,
  })
  return {
    version: 1,
    customFields: { 'custom:f1': 'Cellar size', 'company:custom:f2': 'Contract until' },
    holidays: {},
    callHours: { days: [1, 2, 3, 4, 5], from: 480, to: 1080 },
    fallbackDays: 30,
    retryDays: 2,
    countsUncalled: true,
    attemptsAllowed: 3,
    firstTouch: { from: 'new', to: 'attempting' },
    answered: 'talking',
    stages: {
      new: { id: 'new', name: 'New', kind: 'open', position: 0, gate: {} },
      attempting: { id: 'attempting', name: 'Attempting', kind: 'open', position: 1, gate: {} },
      talking: { id: 'talking', name: 'Talking', kind: 'open', position: 2, gate: {} },
      meeting: { id: 'meeting', name: 'Meeting set', kind: 'open', position: 3, gate: {} },
      unreached: { id: 'unreached', name: 'Unreached', kind: 'paused', position: 4, gate: { attempts: 3 } },
      lost: { id: 'lost', name: 'Lost', kind: 'paused', position: 5, gate: { reason: true } },
      closed: { id: 'closed', name: 'Closed', kind: 'closed', position: 6, gate: {} },
    },
    cadences: {
      mixed: {
        id: 'mixed',
        name: 'Mixed',
        status: 'active',
        cold: true,
        window: { days: [1, 2, 3, 4, 5], from: 480, to: 1020 },
        exits: { replied: 'person', booked: 'company' },
        steps: [
          step('mixed', 0, 'email'),
          step('mixed', 1, 'call', 2, 'hours'),
          step('mixed', 2, 'task', 1, 'business_days'),
          step('mixed', 3, 'call', 1, 'days'),
        ],
      },
      calls: {
        id: 'calls',
        name: 'Calls',
        status: 'active',
        cold: true,
        window: { days: [1, 2, 3, 4, 5], from: 480, to: 1020 },
        exits: { replied: 'company', booked: 'company' },
        steps: [step('calls', 0, 'call'), step('calls', 1, 'call', 1, 'hours')],
      },
    },
    outcomes: {
      noAnswer: outcome('noAnswer', {
        actions: [
          { type: 'advance', beforeAttempt: 3 },
          { type: 'exit', scope: 'cadence', as: 'unreached', fromAttempt: 3 },
          { type: 'moveStage', to: 'unreached', onlyFrom: ['new', 'attempting'], fromAttempt: 3 },
        ],
      }),
      callBack: outcome('callBack', {
        countsAs: 'conversation',
        requiredInputs: ['callBackAt'],
        actions: [{ type: 'moveStage', to: 'talking' }, { type: 'callBack' }],
      }),
      booked: outcome('booked', {
        countsAs: 'conversation',
        requiredInputs: ['meeting'],
        actions: [
          { type: 'exit', scope: 'company', as: 'meeting_booked' },
          { type: 'moveStage', to: 'meeting' },
          { type: 'setCompanyStatus', to: 'in_deal' },
          { type: 'bookMeeting' },
          { type: 'openDeal', likelihood: 15 },
        ],
      }),
      lost: outcome('lost', {
        countsAs: 'conversation',
        requiredInputs: ['reason'],
        actions: [
          { type: 'exit', scope: 'all', as: 'not_interested' },
          { type: 'moveStage', to: 'lost' },
          { type: 'makeTask', title: 'Ask again', days: 45 },
        ],
      }),
      referral: outcome('referral', {
        countsAs: 'conversation',
        requiredInputs: ['referral'],
        actions: [
          { type: 'exit', scope: 'all', as: 'wrong_person' },
          { type: 'moveStage', to: 'closed' },
          { type: 'addReferral' },
        ],
      }),
      notFit: outcome('notFit', {
        countsAs: 'conversation',
        actions: [
          { type: 'setCompanyStatus', to: 'not_a_fit' },
          { type: 'exit', scope: 'company', as: 'not_a_fit' },
          { type: 'moveStage', to: 'closed', scope: 'company' },
        ],
      }),
      wrongNumber: outcome('wrongNumber', {
        countsAs: 'none',
        actions: [{ type: 'markNumber', as: 'wrong' }, { type: 'advance' }],
      }),
      stop: outcome('stop', {
        countsAs: 'conversation',
        actions: [
          { type: 'stop', channel: 'all' },
          { type: 'moveStage', to: 'closed' },
        ],
      }),
      stopCalls: outcome('stopCalls', {
        countsAs: 'conversation',
        actions: [{ type: 'markNumber', as: 'do_not_call' }, { type: 'stop', channel: 'call' }, { type: 'advance' }],
      }),
    },
  }
}

/** Three people at one company and one by herself, each with an address and a number. */
export function state(): EngineState {
  const people = ['ann', 'ben', 'cy', 'dee']
  const rows = <T>(make: (id: string, index: number) => T & { id: string }) =>
    Object.fromEntries(people.map(make).map((row) => [row.id, row]))
  return {
    ...emptyState(NOW),
    company: { acme: { id: 'acme', name: 'Acme Dairy', status: 'open' } },
    prospect: rows((id) => ({
      id,
      companyId: id === 'dee' ? null : 'acme',
      ownerId: 'rep',
      stageId: 'new',
      firstName: id,
      lastName: 'X',
      title: null,
      zone: 'America/New_York',
      zoneFrom: 'address' as const,
      country: 'US',
      region: 'NY',
      stopCall: false,
      stopEmail: false,
      status: 'active' as const,
    })),
    emailAddress: rows((id) => ({
      id: `${id}@`,
      prospectId: id,
      address: `${id}@acme.example`,
      status: 'ok' as const,
      position: 0,
    })),
    phone: rows((id, index) => ({
      id: `${id}#`,
      prospectId: id,
      number: `+1212555010${index}`,
      kind: 'work',
      status: 'unverified' as const,
      position: 0,
    })),
  }
}

/** Ids that count up, the same in every run. */
export function counter(prefix = 'id'): () => string {
  let made = 0
  return () => `${prefix}${made++}`
}

import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { EVENTS, eventKind, type EventKindName } from '../../../core/events/registry'

const id = randomUUID()
const fits = (kind: EventKindName, payload: object) => EVENTS[kind].payload.safeParse(payload).success

describe('what the log holds of an event', () => {
  it.each([
    [
      'callLogged',
      { outcomeId: id, taskId: null, phoneId: id, call: 'here', details: { callBackAt: 1_795_000_000_000 } },
    ],
    ['callLogged', { outcomeId: id, taskId: id, phoneId: null, details: {} }],
    ['prospectEdited', { fields: ['title', id] }],
    ['dealChanged', { dealId: id, change: { value: 1_250 } }],
    ['listJoined', { listId: id }],
    ['blockSkipped', { blockId: id }],
    ['erased', {}],
  ] as const)('of %s is ids, values and codes', (kind, payload) => expect(fits(kind, payload)).toBe(true))
  it.each([
    ['a note', 'callLogged', { outcomeId: id, taskId: null, phoneId: null, details: { note: 'Asked for a price' } }],
    [
      'who was named',
      'callLogged',
      { outcomeId: id, taskId: null, phoneId: null, details: { referral: { lastName: 'Groot' } } },
    ],
    ['the reason', 'stageMoved', { to: 'lost', reason: 'No budget' }],
    ['the name of a deal', 'dealOpened', { dealId: id, another: false, deal: { name: 'Loggers' } }],
    ['what was typed', 'taskPlanned', { task: 'call', title: 'Ask Petra', dueAt: 1, ownerId: null }],
    ['a field’s value', 'prospectEdited', { fields: ['title'], title: 'Buyer' }],
    ['an address', 'emailWritten', { messageId: id, taskId: null, to: 'petra@oxbow.example' }],
    ['why someone is skipped', 'blockSkipped', { blockId: id, why: 'On leave' }],
    ['a name instead of an id', 'listJoined', { listId: 'Cold chain fair' }],
  ] as const)('is never %s', (_what, kind, payload) => expect(fits(kind, payload)).toBe(false))
  it('takes out what people write where its kind says so, and nothing that the log holds', () => {
    for (const [name, { redact, payload }] of Object.entries(EVENTS)) {
      const shape = 'shape' in payload ? Object.keys(payload.shape as object) : []
      for (const path of Object.keys(redact)) {
        // Of a nested one its holder is logged, without it.
        expect(shape.includes(path.split('.')[0]!), `${name}: ${path}`).toBe(path.includes('.'))
      }
    }
    expect(EVENTS.callLogged.redact).toMatchObject({ 'details.reason': 'beside', 'details.note': 'ownRow' })
  })
  it('has a title for every kind', () => {
    for (const [name, kind] of Object.entries(EVENTS)) expect(kind.title, name).toMatch(/^[A-Z]/)
    expect(eventKind('somethingElse')).toBeNull()
  })
})

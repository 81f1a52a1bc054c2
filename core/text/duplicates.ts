import type { Id } from '../instant'
import { nameKey } from './names'

/** What is compared of a person to see whether two are one. */
export interface Likeness {
  firstName: string
  lastName: string
  companyId: Id | null
  /** E.164. */
  phones: string[]
  emails: string[]
}

/** Why two people may be one: reasons in words, the strongest first, and how sure that makes (0 to 1). */
export interface Suspicion {
  sureness: number
  reasons: string[]
}

/**
 * Whether two people may be one, judged by name, number, company and address; null where nothing speaks for it. A name
 * alone never does: it takes a second sign. The weights are common practice, no published source.
 */
export function suspect(one: Likeness, other: Likeness): Suspicion | null {
  const name = nameSign(one, other)
  if (!name) return null
  const signs = [name]
  if (one.phones.some((number) => other.phones.includes(number))) signs.push({ weight: 0.45, label: 'the same number' })
  if (one.companyId && one.companyId === other.companyId) signs.push({ weight: 0.4, label: 'the same company' })
  if (mailboxes(one).some((box) => mailboxes(other).includes(box))) {
    signs.push({ weight: 0.35, label: 'an address of the same name' })
  }
  if (signs.length < 2) return null
  return {
    sureness: Math.min(
      0.99,
      signs.reduce((sum, sign) => sum + sign.weight, 0),
    ),
    reasons: signs.map((sign) => sign.label),
  }
}

function nameSign(one: Likeness, other: Likeness): { weight: number; label: string } | null {
  const [first, second] = [one, other].map((person) => ({
    first: nameKey(person.firstName),
    last: nameKey(person.lastName),
  })) as [Names, Names]
  if (!first.last && !second.last) {
    return first.first && first.first === second.first ? { weight: 0.3, label: 'the same first name' } : null
  }
  if (first.first === second.last && first.last === second.first) {
    return { weight: 0.45, label: 'the same name turned round' }
  }
  if (first.last !== second.last) return null
  if (first.first === second.first) return { weight: 0.5, label: 'the same name' }
  const [short, long] = [first.first, second.first].sort((a, b) => a.length - b.length) as [string, string]
  return short && long.startsWith(short) ? { weight: 0.4, label: 'a name cut short' } : null
}
interface Names {
  first: string
  last: string
}

/** The names of mailboxes, without what stands for nobody. */
const NOBODY = new Set(['info', 'office', 'sales', 'contact', 'hello', 'mail', 'admin', 'support'])
function mailboxes(person: Likeness): string[] {
  return person.emails
    .map((address) => address.slice(0, address.lastIndexOf('@')))
    .filter((box) => box.length > 2 && !NOBODY.has(box))
}

import type { CompanyStatus, PhoneKind, PhoneStatus, ProspectStatus, StageKind } from '../enumerations'
import type { Id } from '../instant'

/** What a block asks of the people in it. */
export interface BlockRules {
  /** Kinds of numbers that are called; empty for any. */
  phoneKinds: readonly PhoneKind[]
  /** Statuses of numbers that are called; empty for any that may be called. */
  phoneStatuses: readonly PhoneStatus[]
  /** Tags that a number has, all of them. */
  phoneTags: readonly string[]
  /** Attempts they may have had; null for any number. */
  attempts: { from: number; to: number } | null
  /** Whether it calls people who have not asked for it: companies in a deal and customers are left alone. */
  cold: boolean
}

export interface BlockPhone {
  id: Id
  kind: PhoneKind
  status: PhoneStatus
  tags: readonly string[]
}

/** What is looked at of a person before they are called in a block. */
export interface Candidate {
  /** Whether they were merged into another record. */
  merged: boolean
  stopCall: boolean
  status: ProspectStatus
  stageKind: StageKind
  companyStatus: CompanyStatus | null
  attempts: number
  /** In the order in which they are tried. */
  phones: readonly BlockPhone[]
}

const STOPS: readonly CompanyStatus[] = ['not_a_fit', 'do_not_contact']
const OF_COMPANY: Readonly<Partial<Record<CompanyStatus, string>>> = {
  not_a_fit: 'Their company is not a fit',
  do_not_contact: 'Their company is not to be contacted',
  in_deal: 'Their company is in a deal',
  customer: 'Their company is a customer',
}
const MAY_BE_CALLED: readonly PhoneStatus[] = ['unverified', 'correct']

/** The number that is called in a block: the first of those its rules allow; null where there is none. */
export function phoneFor(
  phones: readonly BlockPhone[],
  rules: Pick<BlockRules, 'phoneKinds' | 'phoneStatuses' | 'phoneTags'>,
): BlockPhone | null {
  const fits = ({ kind, status, tags }: BlockPhone): boolean =>
    MAY_BE_CALLED.includes(status) &&
    (!rules.phoneKinds.length || rules.phoneKinds.includes(kind)) &&
    (!rules.phoneStatuses.length || rules.phoneStatuses.includes(status)) &&
    rules.phoneTags.every((tag) => tags.includes(tag))
  return phones.find(fits) ?? null
}

/** Why someone is not called in a block, in words; null where they are. */
export function whyNotInBlock(person: Candidate, rules: BlockRules): string | null {
  if (person.merged) return 'Merged into another record'
  if (person.status !== 'active') return person.status === 'paused' ? 'Paused' : 'Archived'
  if (person.stopCall) return 'Do not call'
  const company = person.companyStatus && OF_COMPANY[person.companyStatus]
  if (company && (STOPS.includes(person.companyStatus!) || rules.cold)) return company
  if (person.stageKind === 'closed') return 'Their stage is closed'
  if (!person.phones.some(({ status }) => MAY_BE_CALLED.includes(status))) return 'No number to call'
  if (!phoneFor(person.phones, rules)) return 'No number of those that are called'
  const { attempts } = rules
  if (attempts && (person.attempts < attempts.from || person.attempts > attempts.to)) {
    return attempts.from === attempts.to
      ? `Not ${attempts.from} attempts so far`
      : `Not ${attempts.from} to ${attempts.to} attempts so far`
  }
  return null
}

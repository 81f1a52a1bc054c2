import {
  COMPANY_STATUSES,
  EMAIL_TYPES,
  EXIT_REASONS,
  PHONE_STATUSES,
  PROSPECT_STATUSES,
  RATINGS,
  type CustomFieldKind,
  type CustomFieldOwner,
} from '../enumerations'
import type { Op } from './filter'

/** What a field holds: one value of text, choice, number, moment, yes-no or place; or several of a choice. */
export type FieldKind = 'text' | 'choice' | 'several' | 'number' | 'moment' | 'yesNo' | 'place'

/** What can be asked about people. */
export interface Field {
  /**
   * Its name in filters that are kept; "custom:" and an id for a custom field, "company:custom:" for one of
   * companies, "deal:custom:" for one of deals: those of the deal opened last.
   */
  key: string
  /** Its name in sentences, in small letters, unlike any other field's. */
  label: string
  kind: FieldKind
  group: 'person' | 'company' | 'touches' | 'cadences' | 'deals' | 'lists'
  /** Values to choose from, where there are some: id and name. */
  choices?: readonly Choice[]
  /** Text that is stored as a code of a country or region, and may be asked for by name too. */
  codes?: 'country' | 'region'
}

/** The fields whose text is a code of a country or region. */
const CODED: Readonly<Record<string, Field['codes']>> = {
  country: 'country',
  companyCountry: 'country',
  region: 'region',
  companyRegion: 'region',
}

export interface Choice {
  id: string
  name: string
}

/** What can be asked of a field of each kind, in the order it is offered. */
export const OPS: Record<FieldKind, readonly Op[]> = {
  text: ['is', 'isNot', 'contains', 'containsNot', 'startsWith', 'set', 'unset'],
  choice: ['anyOf', 'noneOf', 'set', 'unset'],
  several: ['hasAny', 'hasAll', 'hasNone', 'exactly', 'set', 'unset'],
  number: ['equals', 'differs', 'atLeast', 'atMost', 'moreThan', 'lessThan', 'between', 'set', 'unset'],
  moment: ['moreAgo', 'inLast', 'inNext', 'moreAhead', 'during', 'before', 'after', 'on', 'set', 'unset'],
  yesNo: ['yes', 'no'],
  place: ['near', 'far', 'inside', 'notInside', 'set', 'unset'],
}

/** The choices that the team's own world gives to fields. */
export interface World {
  stages: readonly Choice[]
  users: readonly Choice[]
  sources: readonly Choice[]
  tags: readonly Choice[]
  outcomes: readonly Choice[]
  cadences: readonly Choice[]
  lists: readonly Choice[]
  imports: readonly Choice[]
  forms: readonly Choice[]
  /** Words for how a call went. */
  qualities: readonly Choice[]
  custom: readonly {
    id: string
    of: CustomFieldOwner
    name: string
    kind: CustomFieldKind
    choices: readonly string[]
  }[]
}

/** Stands for the viewer. */
export const ME = 'me'

/** The values of an enumeration as a field's choices. */
const choicesFor = (labels: Readonly<Record<string, string>>): Choice[] =>
  Object.entries(labels).map(([id, name]) => ({ id, name }))

const CUSTOM_KINDS: Record<CustomFieldKind, FieldKind> = {
  text: 'text',
  link: 'text',
  number: 'number',
  money: 'number',
  date: 'moment',
  yesNo: 'yesNo',
  choice: 'choice',
  choices: 'several',
}

const OWN_GROUPS = { prospect: 'person', company: 'company', deal: 'deals' } as const

/** Everything that can be asked about a person in this team's world, custom fields included. */
export function fieldsOf(world: World): Field[] {
  const field = (
    group: Field['group'],
    kind: FieldKind,
    key: string,
    label: string,
    choices?: readonly Choice[],
  ): Field => ({ key, label, kind, group, ...(choices && { choices }), ...(CODED[key] && { codes: CODED[key] }) })
  const owners = [{ id: ME, name: 'me' }, ...world.users]
  const fields = [
    field('person', 'text', 'name', 'name'),
    field('person', 'text', 'title', 'job title'),
    field('person', 'choice', 'stage', 'stage', world.stages),
    field('person', 'choice', 'owner', 'owner', owners),
    field('person', 'choice', 'rating', 'rating', choicesFor(RATINGS)),
    field('person', 'number', 'score', 'score'),
    field('person', 'several', 'tags', 'tags', world.tags),
    field('person', 'choice', 'status', 'status', choicesFor(PROSPECT_STATUSES)),
    field('person', 'choice', 'relationshipOwner', 'relationship owner', owners),
    field('person', 'choice', 'source', 'source', world.sources),
    field('person', 'choice', 'import', 'file', world.imports),
    field('person', 'moment', 'createdAt', 'added'),
    field('person', 'yesNo', 'isNew', 'new'),
    field('person', 'several', 'emailTypes', 'email preferences', choicesFor(EMAIL_TYPES)),
    field('person', 'text', 'email', 'email'),
    field('person', 'text', 'phone', 'phone'),
    field('person', 'several', 'phoneStatuses', 'phone status', choicesFor(PHONE_STATUSES)),
    field('person', 'text', 'country', 'country'),
    field('person', 'text', 'region', 'region'),
    field('person', 'text', 'city', 'city'),
    field('person', 'text', 'postalCode', 'postal code'),
    field('person', 'place', 'place', 'place'),
    field('person', 'text', 'timeZone', 'time zone'),
    field('person', 'yesNo', 'stopCall', 'do not call'),
    field('person', 'yesNo', 'stopEmail', 'do not email'),
    field('person', 'yesNo', 'isCustomer', 'customer'),
    field('company', 'text', 'companyName', 'company'),
    field('company', 'text', 'companyDomain', 'company website'),
    field('company', 'choice', 'companyStatus', 'company status', choicesFor(COMPANY_STATUSES)),
    field('company', 'text', 'companyIndustry', 'industry'),
    field('company', 'number', 'companySize', 'company size'),
    field('company', 'text', 'companyCountry', 'company country'),
    field('company', 'text', 'companyRegion', 'company region'),
    field('company', 'text', 'companyCity', 'company city'),
    field('company', 'number', 'companyPeople', 'people at the company'),
    field('touches', 'moment', 'lastTouch', 'last touch'),
    field('touches', 'moment', 'lastCall', 'last call'),
    field('touches', 'moment', 'lastText', 'last text'),
    field('touches', 'moment', 'lastEmail', 'last email'),
    field('touches', 'moment', 'lastReply', 'last reply'),
    field('touches', 'moment', 'lastMeeting', 'last meeting'),
    field('touches', 'moment', 'lastVisit', 'last visit'),
    field('touches', 'number', 'attempts', 'attempts'),
    field('touches', 'number', 'conversations', 'conversations'),
    field('touches', 'number', 'emailOpens', 'email opens'),
    field('touches', 'yesNo', 'neverReached', 'never reached'),
    field('touches', 'moment', 'nextAction', 'next action'),
    field('touches', 'choice', 'lastOutcome', 'last outcome', world.outcomes),
    field('touches', 'several', 'outcomes', 'outcomes ever', world.outcomes),
    field('touches', 'choice', 'lastQuality', 'how the last call went', world.qualities),
    field('touches', 'yesNo', 'lastSucceeded', 'last call succeeded'),
    field('touches', 'several', 'forms', 'forms sent', world.forms),
    field('cadences', 'several', 'inCadence', 'cadences now', world.cadences),
    field('cadences', 'several', 'wasInCadence', 'cadences ever', world.cadences),
    field('cadences', 'several', 'cadenceEnded', 'cadence ends', choicesFor(EXIT_REASONS)),
    field('deals', 'number', 'wonDeals', 'won deals'),
    field('deals', 'number', 'openDeals', 'open deals'),
    field('deals', 'number', 'lostDeals', 'lost deals'),
    field('deals', 'number', 'dealValue', 'deal value'),
    field('lists', 'several', 'lists', 'lists', world.lists),
  ]
  const taken = new Set(fields.map((one) => one.label))
  for (const own of world.custom) {
    const base = plainWords(own.name)
    const label = [
      own.of === 'prospect' ? base : `${own.of === 'deal' ? 'latest deal' : 'company'} ${base}`,
      `custom field ${base}`,
      `custom field ${base} ${own.id.slice(0, 8)}`,
    ].find((name) => name && !taken.has(name))!
    taken.add(label)
    fields.push(
      field(
        OWN_GROUPS[own.of],
        CUSTOM_KINDS[own.kind],
        `${own.of === 'prospect' ? '' : `${own.of}:`}custom:${own.id}`,
        label,
        own.kind === 'choice' || own.kind === 'choices' ? own.choices.map((name) => ({ id: name, name })) : undefined,
      ),
    )
  }
  return fields
}

/** A field's name as a sentence can hold it: small letters, digits and single spaces. */
function plainWords(name: string): string {
  return name
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim()
}

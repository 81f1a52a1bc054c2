import { ref, type Ref } from 'vue'
import { navigateTo, useRoute, useRouter } from '#imports'
import type { Field } from '#core/filter/fields'
import {
  conditionsOf,
  EVERYONE,
  normalize,
  isCondition,
  withoutEmptyGroups,
  type Condition,
  type Filter,
  type Test,
} from '#core/filter/filter'
import { parse, print, SentenceError } from '#core/filter/sentence'

type Query = Record<string, string | undefined>

/** What the address of the prospects says besides the filter and the search. */
const PARAMETERS = ['list', 'sort', 'by', 'draw', 'goal'] as const

/** The filter and the search of the prospects, read from the page's address and kept in it. */
export function useFilterAddress(
  fields: Readonly<Ref<readonly Field[]>>,
  byKey: Readonly<Ref<ReadonlyMap<string, Field>>>,
) {
  const route = useRoute()
  const router = useRouter()
  const filter = ref<Filter>(EVERYONE)
  const search = ref('')
  const unreadable = ref('')

  /** Addresses of before, of one condition each, and what they mean as filters. */
  function fromAddress(): Filter {
    const { filter: sentence, import: file, owner, cadence, stage } = route.query as Query
    const one = (field: string, value: string | undefined, op: 'anyOf' | 'hasAny' = 'anyOf'): Condition[] =>
      value ? [{ field, test: value === 'none' ? { op: 'unset' } : { op, values: [value] } }] : []
    const plain = [
      ...one('import', file),
      ...one('owner', owner),
      ...one('inCadence', cadence, 'hasAny'),
      ...one('stage', stage),
    ]
    return sentence ? parse(sentence, fields.value) : normalize({ all: plain })
  }
  function takeAddress(): void {
    unreadable.value = ''
    try {
      filter.value = fromAddress()
    } catch (error) {
      if (!(error instanceof SentenceError)) throw error
      unreadable.value = `The filter in this address cannot be read: ${error.message}`
      filter.value = EVERYONE
    }
    search.value = (route.query.search as string | undefined) ?? ''
  }

  /** Where the address is headed while it is still on its way there: two changes at once both count. */
  let aimed: Query | null = null
  function address(change: Query): void {
    // The page's own route changes late, once the page is painted again; the router's is what holds.
    const now = aimed ?? (router.currentRoute.value.query as Query)
    const sentence = conditionsOf(filter.value).length
      ? print(withoutEmptyGroups(filter.value), byKey.value)
      : undefined
    const merged: Query = {
      ...Object.fromEntries(PARAMETERS.map((key) => [key, now[key]])),
      filter: sentence,
      search: search.value.trim() || undefined,
      ...change,
    }
    aimed = merged
    const query = Object.fromEntries(Object.entries(merged).filter(([, value]) => value))
    void Promise.resolve(navigateTo({ query }, { replace: true })).finally(() => {
      if (aimed === merged) aimed = null
    })
  }

  function clearFilters(): void {
    filter.value = EVERYONE
    search.value = ''
    address({ goal: undefined })
  }
  /** Narrows to a place; one asked for in the same way before gives way to it. */
  function narrowTo(test: Test, leaves: boolean): void {
    const remaining = normalize(withoutEmptyGroups(filter.value)).all.filter(
      (part) => !(isCondition(part) && part.field === 'place' && part.test.op === test.op),
    )
    filter.value = normalize({ all: [...remaining, { field: 'place', test }] })
    address(leaves ? { by: undefined, draw: undefined } : {})
  }
  /** The people matching at one company, one step away. */
  function peopleAt(company: string): void {
    const there = { field: 'companyName', test: { op: 'is' as const, text: company } }
    filter.value = normalize({ all: [withoutEmptyGroups(filter.value), there] })
    address({ by: undefined })
  }
  return { filter, search, unreadable, takeAddress, address, clearFilters, narrowTo, peopleAt }
}

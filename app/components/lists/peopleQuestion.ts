import { computed, type Ref } from 'vue'
import { useRoute } from '#imports'
import type { Field } from '#core/filter/fields'
import { conditionsOf, normalize, withoutEmptyGroups, type Filter } from '#core/filter/filter'
import { print } from '#core/filter/sentence'
import type { GoalState, List } from '#shared/api/lists'

/** What the prospects page asks for now: the list in its address, the filter and the search, the view and the order. */
export function usePeopleQuestion(
  lists: Readonly<Ref<readonly List[]>>,
  byKey: Readonly<Ref<ReadonlyMap<string, Field>>>,
  { filter, search }: { filter: Readonly<Ref<Filter>>; search: Readonly<Ref<string>> },
) {
  const route = useRoute()
  const list = computed(() => lists.value.find((one) => one.id === route.query.list) ?? null)
  /** Seen person by person, by company, or on a map. */
  const view = computed(() => {
    if (route.query.by === 'companies' || route.query.by === 'map') return route.query.by
    return 'people'
  })
  const sort = computed(() => {
    const [, field, way] = /^(.+)\.(up|down)$/.exec((route.query.sort as string | undefined) ?? '') ?? []
    return field ? { field, down: way === 'down' } : (list.value?.sort ?? null)
  })
  /** Only people with whom the list's touch goal stands so. */
  const goal = computed(() =>
    list.value?.touchEvery && view.value === 'people' ? (route.query.goal as GoalState | undefined) : undefined,
  )
  const hasConditions = computed(() => conditionsOf(filter.value).length > 0)
  const narrowed = computed(() => hasConditions.value || Boolean(search.value.trim()) || goal.value !== undefined)
  const asked = computed(() => ({
    ...(hasConditions.value && { filter: withoutEmptyGroups(filter.value) }),
    ...(list.value && { list: list.value.id }),
    ...(search.value.trim() && { search: search.value.trim() }),
    ...(goal.value && { goal: goal.value }),
  }))
  /** Everything that is asked for, as one filter: on the list that is shown, and within it. */
  const whole = computed(() =>
    normalize({
      all: [
        ...(list.value ? [{ field: 'lists', test: { op: 'hasAny' as const, values: [list.value.id] } }] : []),
        withoutEmptyGroups(filter.value),
      ],
    }),
  )
  /** The address of all that is shown as a file, with the columns as they are. */
  function exportAddress(format: 'csv' | 'json' | 'vcard', columns: List['columns']): string {
    const { filter: given, ...rest } = asked.value
    const query = {
      format,
      columns: columns.map((column) => column.key).join(','),
      ...rest,
      ...(given && { filter: print(given, byKey.value) }),
      ...(sort.value && { sort: `${sort.value.field}.${sort.value.down ? 'down' : 'up'}` }),
    }
    return `/api/prospects/export?${new URLSearchParams(query as Record<string, string>)}`
  }
  return { list, view, sort, goal, narrowed, asked, whole, exportAddress }
}

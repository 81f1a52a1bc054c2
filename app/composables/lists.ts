import { computed, shallowRef } from 'vue'
import type { Field } from '#core/filter/fields'
import type { Filter } from '#core/filter/filter'
import { editList, filterFields, listLists, type List } from '#shared/api/lists'
import { call } from '~/api/call'
import { useNotices } from '~/stores/notices'

/** What a list can be changed in from where it is shown. */
export interface ListChange {
  columns?: List['columns']
  sort?: List['sort']
  filter?: Filter
}

/** The thread is a column, though nothing can be asked of it. */
const THREAD: Field = { key: 'thread', label: 'thread', kind: 'several', group: 'touches' }

/** The lists someone sees, and the fields that can be asked for and shown. */
export function useLists() {
  const notices = useNotices()
  const lists = shallowRef<List[]>([])
  const fields = shallowRef<Field[]>([])
  const byKey = computed(() => new Map(fields.value.map((field) => [field.key, field])))
  /** Where someone is shows as their city, region and country. */
  const columnFields = computed(() => [...fields.value.filter((field) => field.kind !== 'place'), THREAD])
  const columnByKey = computed(() => new Map(columnFields.value.map((field) => [field.key, field])))

  async function readLists(): Promise<void> {
    const [known, asked] = await Promise.all([call(listLists), call(filterFields)])
    lists.value = known.lists
    fields.value = asked.fields
  }
  /** Changes a list; where someone else has changed it meanwhile, that is said and read. */
  async function changeList({ id, version }: List, change: ListChange): Promise<void> {
    try {
      const after = await call(editList, { params: { id }, body: { version, ...change } })
      lists.value = lists.value.map((one) =>
        one.id === id ? { ...one, ...(change as Partial<List>), version: after.version } : one,
      )
    } catch (error) {
      notices.error(error)
      await readLists().catch(notices.error)
    }
  }
  return { lists, fields, byKey, columnFields, columnByKey, readLists, changeList }
}

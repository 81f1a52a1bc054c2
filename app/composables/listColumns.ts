import { useLocalStorage } from '@vueuse/core'
import { ref, type Ref } from 'vue'
import type { List } from '#shared/api/lists'

const USUAL: List['columns'] = ['companyName', 'stage', 'lastTouch', 'nextAction', 'owner'].map((key) => ({
  key,
  width: null,
}))
const KEY = 'uphill.columns'

/** The columns people are shown in: the list's, where it has some; else those that this browser remembers. */
export function useListColumns(
  list: Readonly<Ref<List | null>>,
  changeList: (list: List, change: { columns: List['columns'] }) => Promise<void>,
) {
  const columns = ref<List['columns']>(USUAL)
  const remembered = useLocalStorage<List['columns']>(KEY, USUAL, { shallow: true, writeDefaults: false })
  const takeColumns = () => {
    columns.value = list.value?.columns.length ? list.value.columns : remembered.value
  }
  /** Columns belong to the list where one may change it, else to this browser. */
  async function keepColumns(wanted: List['columns']): Promise<void> {
    columns.value = wanted
    if (list.value?.mayEdit) await changeList(list.value, { columns: wanted })
    else remembered.value = wanted
  }
  return { columns, takeColumns, keepColumns }
}

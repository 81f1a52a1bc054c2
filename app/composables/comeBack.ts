import { nextTick, type Ref } from 'vue'
import { onBeforeRouteLeave, useRoute } from '#imports'

/** Where a table was left, and on whom. */
let left: { path: string; id: string; reach: number } | null = null

/** A table of rows that are read page by page. */
interface PagedTable {
  rows: Readonly<Ref<readonly { id: string }[]>>
  /** Reads one more page; false where there is none, or it could not be read. */
  more: () => Promise<boolean>
  /** The id of the row that has the cursor. */
  cursor: () => string | null | undefined
  goTo: (index: number) => Promise<void> | undefined
}

/** Notes on which row a table is left; `comeBack` puts the cursor there again, beyond the first page too. */
export function useComeBack({ rows, more, cursor, goTo }: PagedTable): { comeBack: () => Promise<void> } {
  const route = useRoute()
  onBeforeRouteLeave(() => {
    const id = cursor()
    left = id ? { path: route.fullPath, id, reach: rows.value.length } : null
  })
  async function comeBack(): Promise<void> {
    if (left?.path !== route.fullPath) return
    const { id, reach } = left
    const at = () => rows.value.findIndex((row) => row.id === id)
    while (at() < 0 && rows.value.length < reach && (await more()));
    await nextTick()
    if (at() >= 0) await goTo(at())
  }
  return { comeBack }
}

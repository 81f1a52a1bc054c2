import { ref, type Ref } from 'vue'
import type { z } from 'zod'
import type { ImportTarget } from '#core/imports/columns'
import { listMappings, removeMapping, saveMapping, type Import } from '#shared/api/imports'
import { call, messageOf } from '~/api/call'

/** Mappings of columns that were saved by name, to be used for the next file with such headings. */
export function useSavedMappings(
  found: Readonly<Ref<Import | null>>,
  mapping: Ref<Record<string, ImportTarget>>,
  complain: (message: string) => void,
) {
  const saved = ref<z.output<typeof listMappings.response>['mappings']>([])
  const saveAs = ref('')
  async function readSaved(): Promise<void> {
    saved.value = await call(listMappings).then(
      (answer) => answer.mappings,
      () => [],
    )
  }
  /** Maps each heading to where it went in a saved mapping. */
  function useSaved(name: string): void {
    const way = saved.value.find((one) => one.name === name)
    if (!way || !found.value) return
    const goes = new Map(way.headings.map((heading, column) => [heading.trim().toLowerCase(), way.mapping[column]]))
    mapping.value = Object.fromEntries(
      found.value.headings.flatMap((heading, column) => {
        const target = goes.get(heading.trim().toLowerCase())
        return target ? [[column, target]] : []
      }),
    )
  }
  async function save(): Promise<void> {
    const body = { name: saveAs.value, headings: found.value!.headings, mapping: mapping.value }
    try {
      await call(saveMapping, { body })
      saveAs.value = ''
      await readSaved()
    } catch (error) {
      complain(messageOf(error, 'The mapping could not be saved'))
    }
  }
  async function forget(id: string): Promise<void> {
    await call(removeMapping, { params: { id } }).catch(() => {})
    await readSaved()
  }
  return { saved, saveAs, readSaved, useSaved, save, forget }
}

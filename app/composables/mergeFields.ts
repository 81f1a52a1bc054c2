import { shallowRef } from 'vue'
import { mergeFields } from '#shared/api/settings/fields'
import { call } from '~/api/call'

const fields = shallowRef<readonly { name: string; label: string }[]>([])
let reading: Promise<void> | null = null

/** The merge fields that texts may name, read once while a page is open. */
export function useMergeFields() {
  reading ??= call(mergeFields).then(
    (answer) => {
      fields.value = answer.fields
    },
    () => {
      // Asked again by the next who needs them.
      reading = null
    },
  )
  /** What a field is called; undefined for one that is not there. Until they are read, its own name. */
  const labelOf = (name: string) =>
    fields.value.length ? fields.value.find((field) => field.name === name)?.label : name
  return { fields, labelOf }
}

import { computed, ref, watch, type Ref } from 'vue'

/**
 * Who is chosen among those who are shown: one by one, over a stretch, all that are shown, or everyone who matches
 * (`everyone`), which ends with any choice of another kind.
 */
export function useChoosing(shown: Readonly<Ref<readonly { id: string }[]>>) {
  const picked = ref<ReadonlySet<string>>(new Set())
  const everyone = ref(false)
  let last: string | null = null
  watch(picked, () => {
    everyone.value = false
  })

  function clearSelection(): void {
    picked.value = new Set()
  }
  /** Chooses someone or lets them go; reaching, so are all between them and anyone who was picked before. */
  function pick(id: string, reach: boolean): void {
    const ids = shown.value.map((one) => one.id)
    const [here, before] = [ids.indexOf(id), reach && last !== null && picked.value.size ? ids.indexOf(last) : -1]
    const meant = new Set(before < 0 ? [id] : ids.slice(Math.min(here, before), Math.max(here, before) + 1))
    picked.value = picked.value.has(id)
      ? new Set([...picked.value].filter((one) => !meant.has(one)))
      : new Set([...picked.value, ...meant])
    last = id
  }
  /** Chooses all that are shown, or lets them go where they are chosen already. */
  function pickAll(): void {
    picked.value = shown.value.every((one) => picked.value.has(one.id))
      ? new Set()
      : new Set(shown.value.map((one) => one.id))
  }
  return { picked, pickedIds: computed(() => [...picked.value]), everyone, pick, pickAll, clearSelection }
}

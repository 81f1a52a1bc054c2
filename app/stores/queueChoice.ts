import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import type { QueueChoice } from '#core/queue/choice'
import { useSession } from './session'

/** What a rep has narrowed the queue to, and their order; it stays on this device until it is cleared. */
export const useQueueChoice = defineStore('queueChoice', () => {
  const session = useSession()
  const chosen = useLocalStorage<QueueChoice>(() => `queue of ${session.user?.id ?? ''}`, { sort: 'recommended' })
  /** A stretch of the day is chosen for this day alone. */
  const stretch = ref<Pick<QueueChoice, 'from' | 'to'>>({})
  const choice = computed<QueueChoice>(() => ({ ...chosen.value, ...stretch.value }))
  const isNarrowed = computed(() => choice.value.sort !== 'recommended' || Object.keys(choice.value).length > 1)
  /** Changes parts of the choice, those that are undefined to none; null clears all of it. */
  function set(to: Partial<QueueChoice> | null): void {
    const { from, to: until, ...rest }: QueueChoice = to ? { ...choice.value, ...to } : { sort: 'recommended' }
    const said = Object.entries(rest).filter(([, value]) => value !== undefined)
    chosen.value = Object.fromEntries(said) as unknown as QueueChoice
    stretch.value = from === undefined ? {} : { from, to: until }
  }
  return { choice, isNarrowed, set }
})

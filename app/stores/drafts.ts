import { useSessionStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, watch, type WritableComputedRef } from 'vue'
import { useSession } from './session'

const SHELF = 'uphill drafts'

/**
 * What is being typed about someone or to them, until it is sent or kept: it is still there after the
 * next prospect and a reload. It ends with the tab, and is each user's own.
 */
export const useDrafts = defineStore('drafts', () => {
  const session = useSession()
  // The tab is the only one that writes; listening to itself, it would miss the second of two writes in a moment.
  const options = { shallow: true, flush: 'sync', listenToStorageChanges: false } as const
  const drafts = useSessionStorage<Record<string, string>>(SHELF, {}, options)
  const key = (what: string, id: string) => `${session.user?.id ?? ''} ${what} ${id}`

  /** Puts a draft by; null for none any more. */
  function write(what: string, id: string, text: string | null): void {
    const { [key(what, id)]: _, ...others } = drafts.value
    drafts.value = text === null ? others : { ...others, [key(what, id)]: text }
  }
  /**
   * The draft of a kind for the prospect that `id` names at the moment; what is begun with stands there until something
   * else is typed.
   */
  function draft(what: string, id: () => string, begun: () => string = () => ''): WritableComputedRef<string> {
    return computed({
      get: () => drafts.value[key(what, id())] ?? begun(),
      set: (text) => write(what, id(), text === begun() ? null : text),
    })
  }
  watch(
    () => session.user?.id,
    (now, before) => {
      if (before && !now) drafts.value = {}
    },
  )
  return { write, draft }
})

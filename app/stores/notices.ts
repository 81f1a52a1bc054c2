import { defineStore } from 'pinia'
import { ref } from 'vue'
import { ApiError, messageOf } from '~/api/call'

/** A short message at the foot of the screen, with something that can be done about it. */
export interface Notice {
  id: number
  text: string
  tone: 'done' | 'wrong'
  act?: { label: string; key?: string; run: () => void }
}

/** What has just been done or gone wrong. */
export const useNotices = defineStore('notices', () => {
  const notices = ref<Notice[]>([])
  let last = 0
  function drop(id: number): void {
    notices.value = notices.value.filter((notice) => notice.id !== id)
  }
  function say(text: string, act?: Notice['act'], tone: Notice['tone'] = 'done'): number {
    const id = ++last
    // One offer to undo at a time: the last one.
    if (act?.key) dropKey(act.key)
    notices.value = [...notices.value.slice(-2), { id, text, tone, ...(act && { act }) }]
    const shown = act ? 15_000 : 6_000
    setTimeout(() => drop(id), tone === 'wrong' ? 12_000 : shown)
    return id
  }
  function error(cause: unknown): void {
    if ((cause as Error).name === 'AbortError') return
    say(messageOf(cause, 'Something went wrong on this page. Load it again'), undefined, 'wrong')
    if (!(cause instanceof ApiError)) console.error(cause)
  }
  /** Takes away every message that offers something by this key: it has been done. */
  function dropKey(key: string): void {
    notices.value = notices.value.filter((notice) => notice.act?.key !== key)
  }
  return { notices, say, error, drop, dropKey }
})

import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { navigateTo } from '#imports'
import { listNotifications, markNotifications, type Notification } from '#shared/api/notifications'
import { call } from '~/api/call'
import { useNotices } from './notices'
import { useSession } from './session'

/** What the user is to know of, newest first; read as it is opened. */
export const useNotifications = defineStore('notifications', () => {
  const notices = useNotices()
  const session = useSession()
  const items = shallowRef<Notification[] | null>(null)
  const next = ref<string | null>(null)

  /** Reads the newest, or with `more` those before them. */
  async function read(more = false): Promise<void> {
    const query = more && next.value !== null ? { before: next.value } : {}
    try {
      const answer = await call(listNotifications, { query })
      items.value = more ? [...(items.value ?? []), ...answer.notifications] : answer.notifications
      next.value = answer.next
    } catch (error) {
      notices.error(error)
    }
  }
  /** Marks some as read or unread, or all of them; what is shown follows at once. */
  async function mark(which: Notification | null, isRead = true): Promise<void> {
    const touched = (one: Notification) => which === null || one === which
    items.value = (items.value ?? []).map((one) => (touched(one) ? { ...one, read: isRead } : one))
    try {
      await call(markNotifications, { body: { ids: which?.ids ?? null, read: isRead } })
      await session.refresh()
    } catch (error) {
      notices.error(error)
      await read()
    }
  }
  /** Goes where one leads; it is read then. */
  async function open(one: Notification): Promise<void> {
    if (!one.read) void mark(one)
    if (one.to) await navigateTo(one.to)
  }
  return { items, next, read, mark, open }
})

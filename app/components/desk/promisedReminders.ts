import { watch } from 'vue'
import { useTimes } from '~/composables/times'
import { keyOf, useDesk } from '~/stores/desk'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** Says a few minutes before that a promised call is coming up, once for each. */
export function usePromisedReminders(): void {
  const desk = useDesk()
  const notices = useNotices()
  const session = useSession()
  const times = useTimes()
  const reminded = new Set<string>()
  watch(
    () => desk.queue?.items,
    (items) => {
      for (const item of items ?? []) {
        if (item.group !== 'promised' || item.dueAt < session.now || reminded.has(keyOf(item))) continue
        reminded.add(keyOf(item))
        notices.say(`Promised call: ${item.name} at ${times.clock(item.dueAt)}.`, {
          label: 'Open',
          run: () => void desk.choose(keyOf(item)),
        })
      }
    },
  )
}

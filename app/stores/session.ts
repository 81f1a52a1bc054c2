import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { manages as isManager, onlyCalls as isCaller } from '#core/roles'
import { me, moveClock, signIn, signOut, type ClockState, type Me } from '#shared/api/session'
import { call } from '~/api/call'
import { renewStreams } from '~/api/streams'

/** Who is signed in, and the world's clock as the server last gave it. */
export const useSession = defineStore('session', () => {
  const user = ref<Me | null>(null)
  const clock = ref<ClockState | null>(null)
  const team = ref({ name: '', timeZone: 'UTC', country: 'US', currency: 'USD', callQualities: [] as string[] })
  const demo = ref<{
    mailboxUrl: string | null
    telephonesUrl: string | null
    accounts: { email: string; name: string; role: string; password: string }[]
  } | null>(null)
  /** The session has ended while someone works: they sign in again over what they have typed. */
  const ended = ref(false)
  /** How many problems wait for a manager. */
  const problems = ref(0)
  /** How many notifications are not read. */
  const unread = ref(0)
  /** Whether calls come in over the exchange. */
  const incomingCalls = ref(false)
  const heardAt = ref(0)
  const ticking = ref(Date.now())

  /** The world's time, going on by itself between two answers of the server. */
  const now = computed(() => {
    if (!clock.value) return ticking.value
    return clock.value.frozen ? clock.value.now : clock.value.now + ticking.value - heardAt.value
  })
  const timeZone = computed(() => user.value?.timeZone ?? team.value.timeZone)
  const manages = computed(() => user.value !== null && isManager(user.value))
  /** Whether the user is there just to call, and sees nothing but that. */
  const onlyCalls = computed(() => user.value !== null && isCaller(user.value))

  async function refresh(): Promise<void> {
    const response = await call(me)
    heardAt.value = ticking.value = Date.now()
    clock.value = response.clock
    team.value = response.team
    demo.value = response.demo
    problems.value = response.problems
    unread.value = response.unread
    incomingCalls.value = response.incomingCalls
    if (response.user) show(response.user)
    else if (user.value) ended.value = true
  }
  /** What is on the screen is one user's: for another, who signed in here or in another tab, the page loads anew. */
  function show(next: Me): void {
    if (user.value && user.value.id !== next.id) return window.location.reload()
    user.value = next
    ended.value = false
  }
  async function enter(email: string, password: string, code?: string): Promise<void> {
    const { user: next } = await call(signIn, { body: { email, password, ...(code && { code }) } })
    if (!ended.value) user.value = null
    show(next)
    renewStreams()
    await refresh()
  }
  async function leave(): Promise<void> {
    await call(signOut)
    renewStreams()
    user.value = null
  }
  /** Sends the demo's clock on its way and waits until it is there. */
  async function forward(by: 'hour' | 'day' | 'step'): Promise<void> {
    await call(moveClock, { body: { by } })
    do {
      await new Promise((resolve) => setTimeout(resolve, 250))
      await refresh()
    } while (clock.value?.target)
  }
  function tick(): void {
    ticking.value = Date.now()
  }
  return {
    user,
    clock,
    team,
    demo,
    problems,
    unread,
    incomingCalls,
    ended,
    onlyCalls,
    now,
    timeZone,
    manages,
    refresh,
    enter,
    leave,
    forward,
    tick,
  }
})

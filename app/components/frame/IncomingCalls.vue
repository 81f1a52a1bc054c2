<script setup lang="ts">
import { useEventListener, useIntervalFn } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import {
  answerIncomingCall,
  endIncomingCall,
  listIncomingCalls,
  markIncomingCallSeen,
  type IncomingCall,
} from '#shared/api/desk/incoming'
import { call } from '~/api/call'
import { useChanges } from '~/api/changes'
import { stopwatch, useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'
import { useRingTone } from './ringTone'

/**
 * Calls that come in: a card over whatever is shown, with who it is by the number. Answered, it opens the sheet on
 * which the call is logged; nothing that is typed below is touched.
 */
const emit = defineEmits<{ /** A person with this number is to be added. */ add: [number: string] }>()
const times = useTimes()
const notices = useNotices()
const session = useSession()
const calls = shallowRef<IncomingCall[]>([])
const tick = ref(Date.now())
const busy = ref(false)
/** The call whose sheet is open, and with whom. */
const logging = shallowRef<{ call: IncomingCall; prospectId: string } | null>(null)
const sheetOpen = ref(false)
/** While one is being logged, only what rings lies over its sheet, which says how it stands. */
const shown = computed(() => calls.value.filter((one) => !sheetOpen.value || one.status === 'ringing'))
/** Calls that ring for everyone and are left to the others. */
const ignored = new Set<string>()
const ringing = computed(() => calls.value.find((one) => one.status === 'ringing'))
const isSilent = useRingTone(computed(() => ringing.value !== undefined))

async function read(): Promise<void> {
  const answer = await call(listIncomingCalls).catch(() => null)
  if (!answer) return
  calls.value = answer.calls.filter((one) => one.status !== 'ringing' || !ignored.has(one.id))
}
onMounted(read)
useChanges('calls', read, { seconds: 30, without: 2.5 })
useIntervalFn(() => {
  tick.value = Date.now()
}, 500)
const nameOf = (one: IncomingCall) => one.people[0]?.name ?? one.shown
/** The title of the window says it, too, for who works in another one. */
let plainTitle = ''
watch(
  () => ringing.value && `${nameOf(ringing.value)} is calling`,
  (now, before) => {
    if (!before) plainTitle = document.title
    if (now) document.title = `${now} · ${plainTitle}`
    else if (before && document.title.startsWith(before)) document.title = plainTitle
  },
)

/** Does something to a call once at a time, and reads how things stand then. */
async function act(work: () => Promise<unknown>): Promise<boolean> {
  if (busy.value) return false
  busy.value = true
  const done = await work().then(
    () => true,
    (error: unknown) => {
      notices.error(error)
      return false
    },
  )
  await read()
  busy.value = false
  return done
}
async function answer(one: IncomingCall): Promise<void> {
  const [person] = one.people
  if ((await act(() => call(answerIncomingCall, { params: { id: one.id } }))) && person) log(one, person.id)
}
/** Hangs up, or declines; a call that rings for everyone goes on ringing for the others. */
function end(one: IncomingCall): Promise<boolean> {
  if (one.status === 'ringing' && one.forEveryone) {
    ignored.add(one.id)
    return act(() => Promise.resolve())
  }
  return act(() => call(endIncomingCall, { params: { id: one.id } }))
}
function log(one: IncomingCall, prospectId: string): void {
  logging.value = { call: one, prospectId }
  sheetOpen.value = true
}
const putAway = (one: IncomingCall) => act(() => call(markIncomingCallSeen, { params: { id: one.id } }))
/** The outcome is logged: the call is over with it, as one that was made from here. */
async function logged(): Promise<void> {
  if (onSheet.value) await end(onSheet.value)
  else await read()
  window.dispatchEvent(new Event('world-moved'))
}
/** Keys that work while typing, too: a ring does not wait. */
function onKey(event: KeyboardEvent): void {
  if (!event.altKey || event.ctrlKey || event.metaKey || event.repeat) return
  const live = calls.value.find((one) => one.status === 'answered')
  if (event.code === 'KeyC' && ringing.value) void answer(ringing.value)
  else if (event.code === 'KeyH' && (live ?? ringing.value)) void end((live ?? ringing.value)!)
  else return
  event.preventDefault()
}
useEventListener('keydown', onKey)
const TITLES = {
  ringing: 'is calling',
  answered: 'on the line',
  missed: 'called',
  over: 'called. The call is over, and not logged yet.',
} as const
/** The call whose sheet is open, while it lasts. */
const onSheet = computed(() =>
  calls.value.find((one) => one.status === 'answered' && one.id === logging.value?.call.id),
)
</script>

<template>
  <div class="incoming" aria-live="assertive">
    <section
      v-for="one in shown"
      :key="one.id"
      class="one"
      :class="one.status"
      :aria-label="`Call from ${nameOf(one)}`"
    >
      <div class="grow">
        <p>
          <b>{{ nameOf(one) }}</b>
          {{ TITLES[one.status] }}
          <span v-if="one.status === 'missed'" class="num">at {{ times.clock(one.at) }}</span
          ><span v-else-if="one.status !== 'over'" class="num" aria-hidden="true">{{
            stopwatch(tick - one.since)
          }}</span>
        </p>
        <p class="dim small">
          <template v-if="one.people.length">{{
            [one.people[0]!.company, one.shown].filter(Boolean).join(' · ')
          }}</template>
          <template v-else>Nobody here has this number.</template>
          <template v-if="one.people.length > 1">
            Also with this number:
            <button
              v-for="other in one.people.slice(1)"
              :key="other.id"
              class="link"
              :disabled="one.status === 'ringing'"
              @click="log(one, other.id)"
            >
              {{ other.name }}
            </button>
          </template>
        </p>
      </div>
      <template v-if="one.status === 'ringing'">
        <button class="link small" :aria-pressed="isSilent" @click="isSilent = !isSilent">
          {{ isSilent ? 'Turn sound on' : 'Silence' }}
        </button>
        <v-btn color="primary" size="small" :disabled="busy" @click="answer(one)"
          >Answer <kbd class="ml-2">Alt C</kbd></v-btn
        >
        <v-btn size="small" variant="outlined" :disabled="busy" @click="end(one)"
          >{{ one.forEveryone ? 'Ignore' : 'Decline' }} <kbd class="ml-2">Alt H</kbd></v-btn
        >
      </template>
      <template v-else>
        <v-btn v-if="one.people.length" color="primary" size="small" @click="log(one, one.people[0]!.id)"
          >Log the call</v-btn
        >
        <v-btn v-else-if="!session.onlyCalls" color="primary" size="small" @click="emit('add', one.shown)"
          >Add person</v-btn
        >
        <v-btn v-if="one.status === 'answered'" size="small" variant="outlined" @click="end(one)"
          >Hang up <kbd class="ml-2">Alt H</kbd></v-btn
        >
        <v-btn v-else size="small" variant="text" @click="putAway(one)">Dismiss</v-btn>
      </template>
    </section>
    <LazyCallSheet
      v-if="logging"
      :key="logging.call.id + logging.prospectId"
      v-model="sheetOpen"
      :prospect-id="logging.prospectId"
      purpose="incoming"
      :number="logging.call.number"
      @done="logged"
    >
      <p v-if="onSheet" class="spread">
        <b class="num" role="status"
          >On the line <span aria-hidden="true">{{ stopwatch(tick - onSheet.since) }}</span></b
        >
        <button class="plain chip clay" @click="end(onSheet)">Hang up <kbd>Alt H</kbd></button>
      </p>
      <p v-else class="dim" role="status">The call is over.</p>
    </LazyCallSheet>
  </div>
</template>

<style scoped>
.incoming {
  position: fixed;
  left: 50%;
  top: 54px;
  transform: translateX(-50%);
  z-index: 2500;
  display: grid;
  gap: 6px;
  width: min(620px, calc(100vw - 32px));
}
.one {
  display: flex;
  gap: 10px;
  align-items: center;
  background: var(--card);
  border: 1px solid var(--line);
  border-left: 4px solid var(--stone);
  border-radius: 8px;
  box-shadow: 0 6px 22px rgb(31 43 39 / 16%);
  padding: 10px 14px;
}
.one.ringing {
  border-left-color: var(--amber);
}
.one.answered {
  border-left-color: var(--pine);
}
@media (max-width: 560px) {
  .one {
    flex-wrap: wrap;
  }
}
</style>

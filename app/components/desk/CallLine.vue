<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import { callState, dial, hangUp, type Brief } from '#shared/api/desk/desk'
import { stopRecording } from '#shared/api/settings/recording'
import { leaveVoicemail } from '#shared/api/desk/voicemail'
import { newId } from '#shared/newId'
import { call, messageOf } from '~/api/call'
import { useChanges } from '~/api/changes'
import { stopwatch, useTimes } from '~/composables/times'
import { useSession } from '~/stores/session'
import { useVoicemail } from '~/stores/voicemail'

/** The line: rings the person, says how it stands, hangs up. */
const props = defineProps<{
  brief: Brief
  /** The number that is called unless another one is chosen. */
  preferred?: string | null
  /** The call that the viewer was put through to: it is on the line already. */
  lineCall?: string | null
}>()
const emit = defineEmits<{
  phone: [id: string | null]
  /** A call was made: the outcomes count now. */ called: []
  /** A voicemail message is being left. */ left: []
  /** A number or an address was added or corrected. */ changed: []
}>()
const mending = ref(false)
/** Said of a call that was not made from here. */
const madeAs = defineModel<'elsewhere' | 'incoming' | null>('madeAs', { default: null })
const times = useTimes()
const session = useSession()
const callId = ref<string | null>(null)
const state = ref<string>('')
const since = ref(0)
/** Of a call on the user's own phone: the link by which it dials. */
const uri = ref<string | null>(null)
const phoneLink = ref<HTMLAnchorElement | null>(null)
const tick = ref(Date.now())
/** Whether the call is recorded, and announced as that. */
const recorded = ref(false)
const formError = ref('')
const voicemail = useVoicemail()
/** The message that is left; it plays on by itself. */
const leaving = ref<string | null>(null)
const phoneId = ref<string | null>(null)
const usable = computed(() =>
  props.brief.prospect.phones.filter((phone) => phone.status === 'correct' || phone.status === 'unverified'),
)
const number = computed(() => {
  const known = (id: string | null | undefined) => usable.value.find((phone) => phone.id === id)
  return known(phoneId.value) ?? known(props.preferred) ?? usable.value[0] ?? null
})
const WORDS: Record<string, string> = {
  ringing: 'Ringing',
  answered: 'On the line',
  voicemail: 'Voicemail',
  busy: 'Busy',
  rejected: 'Call rejected',
  not_in_service: 'Number not in service',
  no_answer: 'No answer',
  ended: 'Call ended',
  own_phone: 'On your phone',
}
const OVER = ['ended', 'busy', 'rejected', 'not_in_service']
const lasted = computed(() => stopwatch(tick.value - since.value))
const live = computed(() => callId.value !== null && leaving.value === null && !OVER.includes(state.value))

async function look(): Promise<void> {
  if (!callId.value || OVER.includes(state.value)) return
  const response = await call(callState, { params: { id: callId.value } }).catch(() => null)
  if (!response) return
  state.value = response.status
  if (response.status === 'voicemail') void voicemail.know().catch(() => {})
  since.value = response.since
}
/** Whether the stream says when the call is in another state; otherwise it is asked for. */
const reported = ref(false)
useChanges('line', () => void look(), { seconds: () => (reported.value ? 5 : 0.5), without: 0.5 })
useIntervalFn(() => {
  tick.value = Date.now()
}, 500)
async function ring(): Promise<void> {
  if (live.value) return
  formError.value = ''
  const prospectId = props.brief.prospect.id
  try {
    const made = await call(dial, {
      body: { id: newId(), prospectId, phoneId: phoneId.value ?? number.value?.id ?? null },
    })
    // The next prospect is shown already: this call is none of theirs.
    if (props.brief.prospect.id !== prospectId) {
      void call(hangUp, { params: { id: made.id } }).catch(() => {})
      return
    }
    callId.value = made.id
    phoneId.value = made.phoneId
    emit('phone', made.phoneId)
    emit('called')
    uri.value = made.uri
    recorded.value = made.recorded
    // The own phone says nothing of its calls.
    reported.value = made.reported || made.uri !== null
    state.value = made.uri ? 'own_phone' : 'ringing'
    since.value = tick.value = Date.now()
    await nextTick()
    phoneLink.value?.click()
  } catch (error) {
    formError.value = messageOf(error, 'The call could not be made')
  }
}
/** Leaves a message in the voicemail box that has answered: the first of the rep's, or the one that is chosen. */
async function leaveMessage(messageId: string | null = null): Promise<void> {
  if (!callId.value || state.value !== 'voicemail' || leaving.value !== null || !voicemail.messages?.length) return
  formError.value = ''
  try {
    leaving.value = (await call(leaveVoicemail, { params: { id: callId.value }, body: { messageId } })).name
    emit('left')
  } catch (error) {
    formError.value = messageOf(error, 'The message could not be left')
  }
}
/** They do not want to be recorded: nothing of it is kept. */
async function stopRecord(): Promise<void> {
  if (!callId.value) return
  formError.value = ''
  try {
    await call(stopRecording, { params: { id: callId.value } })
    recorded.value = false
  } catch (error) {
    formError.value = messageOf(error, 'The recording could not be stopped')
  }
}
async function end(): Promise<void> {
  if (callId.value && live.value) await call(hangUp, { params: { id: callId.value } }).catch(() => {})
  await look()
}
function reset(): void {
  if (live.value) void end()
  callId.value = uri.value = leaving.value = null
  phoneId.value = null
  state.value = formError.value = ''
  recorded.value = false
  emit('phone', null)
}
watch(() => props.brief.prospect.id, reset)
watch(
  () => props.lineCall && `${props.lineCall} ${props.brief.prospect.id}`,
  () => {
    if (!props.lineCall || callId.value === props.lineCall) return
    callId.value = props.lineCall
    reported.value = true
    state.value = 'answered'
    since.value = tick.value = Date.now()
  },
  { immediate: true },
)
defineExpose({ ring, end, leaveMessage })
</script>

<template>
  <div class="line">
    <div v-if="callId" class="spread">
      <b class="num" role="status"
        >{{ leaving === null ? WORDS[state] : `Leaving “${leaving}”` }} <template v-if="live">{{ lasted }}</template></b
      >
      <button v-if="live" class="plain chip clay" @click="end">{{ uri ? 'Call over' : 'Hang up' }} <kbd>H</kbd></button>
      <button v-else-if="leaving === null" class="plain chip pine" @click="ring">Call again <kbd>C</kbd></button>
    </div>
    <div v-if="live && state === 'voicemail'" class="voicemail">
      <template v-if="voicemail.messages?.length">
        <button class="plain chip pine" @click="leaveMessage()">
          Leave “{{ voicemail.messages[0]!.name }}” <kbd>V</kbd>
        </button>
        <button
          v-for="one in voicemail.messages.slice(1)"
          :key="one.id"
          class="link small"
          @click="leaveMessage(one.id)"
        >
          {{ one.name }}
        </button>
      </template>
      <NuxtLink v-else-if="voicemail.messages" to="/account" class="link small"
        >Record a message to leave here</NuxtLink
      >
    </div>
    <div v-else-if="!callId && number" class="spread">
      <label v-if="usable.length > 1" class="grow"
        ><span class="sr">Number</span
        ><select :value="number.id" @change="phoneId = ($event.target as HTMLSelectElement).value">
          <option v-for="phone in usable" :key="phone.id" :value="phone.id">
            {{ phone.shown }} · {{ phone.kind }}
          </option>
        </select></label
      >
      <b v-else class="num cut">{{ number.shown }}</b>
      <v-btn color="primary" size="small" :disabled="!brief.prospect.calling.open" @click="ring"
        >Call <kbd class="ml-2">C</kbd></v-btn
      >
    </div>
    <b v-else-if="!callId" class="mr-2">No number to call</b>
    <button v-if="!session.onlyCalls" class="link small" @click="mending = true">
      {{ brief.prospect.phones.length + brief.prospect.emails.length ? 'Edit contact' : 'Add phone or email' }}
    </button>
    <v-dialog v-model="mending" max-width="400" aria-label="Contact"
      ><v-card class="pa-4"
        ><LazyReachPanel :person="brief.prospect" @changed="emit('changed')" /><v-btn
          class="mt-2"
          variant="text"
          @click="mending = false"
          >Close</v-btn
        ></v-card
      ></v-dialog
    >
    <p class="small dim made">
      <template v-if="madeAs"
        ><span class="chip slate">{{
          madeAs === 'elsewhere' ? 'Logging a call made on another phone' : 'Logging a call they made to us'
        }}</span>
        <button class="link small" @click="madeAs = null">Cancel</button></template
      >
      <template v-else-if="brief.call && !callId"
        >You called at {{ times.clock(brief.call.startedAt) }}. It has no outcome yet.</template
      >
      <template v-else-if="!callId"
        >Log a call: <button class="link small" @click="madeAs = 'elsewhere'">on another phone</button> <kbd>L</kbd> ·
        <button class="link small" @click="madeAs = 'incoming'">they called us</button></template
      >
    </p>
    <p v-if="recorded && live" class="small dim">
      Recorded, as was announced.
      <button class="link small" @click="stopRecord">Stop and delete</button>
    </p>
    <p v-if="uri && live" class="small dim">
      Your phone does not dial? <a ref="phoneLink" class="link" :href="uri">{{ number?.shown }}</a>
    </p>
    <p v-if="formError" class="small clay" role="alert">{{ formError }}</p>
    <p v-else-if="!brief.prospect.calling.open && brief.prospect.calling.from" class="small dim">
      Opens {{ times.moment(brief.prospect.calling.from) }} your time
    </p>
    <p v-else-if="number && brief.prospect.calling.why" class="small clay why">{{ brief.prospect.calling.why }}</p>
  </div>
</template>

<style scoped>
.line {
  margin-bottom: 10px;
  min-height: 32px;
}
.clay {
  color: var(--clay-deep);
}
.why::first-letter {
  text-transform: uppercase;
}
select {
  width: 100%;
}
.voicemail {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  margin-top: 4px;
}
</style>

<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { nextTick, ref, shallowRef, watch } from 'vue'
import {
  brief as readBrief,
  logOutcome,
  type Brief,
  type OutcomeChoice,
  type OutcomeDetails,
} from '#shared/api/desk/desk'
import { undo } from '#shared/api/events/history'
import { newId } from '#shared/newId'
import type OutcomePanel from '~/components/desk/OutcomePanel.vue'
import { ApiError, call } from '~/api/call'
import type { Quality } from '~/components/desk/CallQuality.vue'
import { isTyping } from '~/composables/keys'
import { useNotices } from '~/stores/notices'

/** A call with one person, from their page: made here, on another phone, or by them; with its outcome. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  prospectId: string
  /** What it is opened for: to call, to log a call made elsewhere or by them to us, or to book a meeting. */
  purpose: 'call' | 'log' | 'meeting' | 'incoming'
  /** The number they called from, in E.164. */
  number?: string
}>()
const emit = defineEmits<{ done: [] }>()
const notices = useNotices()
const brief = shallowRef<Brief | null>(null)
/** How the call was made that each purpose is for, and the title of the sheet. */
const MADE_AS = { call: null, log: 'elsewhere', meeting: 'elsewhere', incoming: 'incoming' } as const
const TITLES = {
  call: ['Call', 'Call'],
  log: ['Log a call', 'Log a call with'],
  meeting: ['Book a meeting', 'Book a meeting with'],
  incoming: ['Incoming call', 'Call from'],
} as const
const madeAs = ref<'elsewhere' | 'incoming' | null>(null)
const phoneId = ref<string | null>(null)
const note = ref('')
const quality = ref<Quality>({})
const went = ref<{ cycle(): void } | null>(null)
const formError = ref<ApiError | null>(null)
const panel = ref<InstanceType<typeof OutcomePanel> | null>(null)
const line = ref<{ ring(): Promise<void>; end(): Promise<void>; leaveMessage(): Promise<void> } | null>(null)
const busy = ref(false)

async function read(): Promise<void> {
  brief.value = await call(readBrief, {
    params: { id: props.prospectId },
    query: { ...(madeAs.value && { call: madeAs.value }) },
  }).catch((error: unknown) => {
    notices.error(error)
    return null
  })
}
async function begin(now: boolean): Promise<void> {
  if (!now) return
  madeAs.value = MADE_AS[props.purpose]
  formError.value = null
  quality.value = {}
  brief.value = null
  await read()
  phoneId.value = (brief.value as Brief | null)?.prospect.phones.find((one) => one.number === props.number)?.id ?? null
  await nextTick()
  if (props.purpose === 'call') void line.value?.ring()
  const booking = (brief.value as Brief | null)?.outcomes.find(
    (outcome) => outcome.requiredInputs.includes('meeting') && outcome.key !== null,
  )
  if (props.purpose === 'meeting' && booking) panel.value?.pickKey(booking.key!)
}
watch(open, begin, { immediate: true })
watch(madeAs, () => {
  if (brief.value) void read()
})
async function takeBack(id: string): Promise<void> {
  await call(undo, { params: { id }, body: { id: newId() } }).then(() => emit('done'), notices.error)
}
async function log(outcome: OutcomeChoice, details: OutcomeDetails): Promise<void> {
  if (busy.value || !brief.value) return
  busy.value = true
  formError.value = null
  const text = [note.value, details.note ?? '']
    .map((one) => one.trim())
    .filter(Boolean)
    .join('\n')
  const id = newId()
  const body = {
    id,
    outcomeId: outcome.id,
    taskId: brief.value.task?.id ?? null,
    phoneId: phoneId.value,
    details: { ...details, ...quality.value, ...(text && { note: text }) },
    fingerprint: outcome.fingerprint,
    call: madeAs.value,
  }
  try {
    const { summary: label } = await call(logOutcome, { params: { id: props.prospectId }, body })
    notices.say(`${brief.value.prospect.name}: ${outcome.name}. ${label}`, {
      label: 'Undo',
      run: () => void takeBack(id),
    })
    note.value = ''
    quality.value = {}
    open.value = false
    emit('done')
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    formError.value = error
    notices.error(error)
    if (error.code === 'conflict') await read()
  }
  busy.value = false
}
const pick = (key: string) => {
  if (open.value && !panel.value?.isOpen()) panel.value?.pickKey(key)
}
function onKey(event: KeyboardEvent): void {
  if (!open.value || isTyping(event) || event.ctrlKey || event.altKey || event.metaKey) return
  if (/^\d$/.test(event.key)) pick(event.key)
  else if (event.shiftKey && event.code.startsWith('Digit')) pick(`Shift+${event.code.slice(5)}`)
  else if (event.key === 'v' && !panel.value?.isOpen()) void line.value?.leaveMessage()
  else if (event.key === 'w' && !panel.value?.isOpen()) went.value?.cycle()
}
// The whole window is listened to: a key may be pressed before the cursor is in the dialog.
useEventListener('keydown', onKey)
</script>

<template>
  <v-dialog v-model="open" max-width="460" scrollable :aria-label="TITLES[purpose][0]">
    <v-card class="pa-4">
      <template v-if="brief">
        <h2 class="mb-2">
          {{ TITLES[purpose][1] }}
          <NuxtLink v-if="purpose === 'incoming'" :to="`/prospects/${prospectId}`" class="link">{{
            brief.prospect.name
          }}</NuxtLink><template v-else>{{ brief.prospect.name }}</template>
        </h2>
        <template v-if="purpose === 'incoming'">
          <p class="dim small">
            {{
              [brief.prospect.title, brief.prospect.company?.name, brief.prospect.stage.name]
                .filter(Boolean)
                .join(' · ')
            }}
          </p>
          <slot />
          <p v-for="one in brief.notes.slice(0, 2)" :key="one.id" class="small last">{{ one.body }}</p>
        </template>
        <CallLine
          v-else
          ref="line"
          v-model:made-as="madeAs"
          :brief="brief"
          @phone="phoneId = $event"
          @called="read"
          @left="panel?.pickMessageLeft()"
          @changed="read"
        />
        <label class="note">Note<textarea v-model="note" rows="2" maxlength="10000" /></label>
        <CallQuality ref="went" v-model="quality" class="mb-2"><kbd>W</kbd></CallQuality>
        <div class="outs">
          <OutcomePanel ref="panel" :brief="brief" :form-error="formError" :note="note" @log="log" />
        </div>
      </template>
      <p v-else class="dim">Loading …</p>
      <div class="row mt-3"><v-btn variant="text" @click="open = false">Close</v-btn></div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.note {
  display: grid;
  font-size: 12.5px;
  color: var(--dim);
  margin-bottom: 10px;
}
textarea {
  font-size: 14px;
}
.last {
  margin: 4px 0;
  padding-left: 8px;
  border-left: 2px solid var(--line);
}
.outs {
  overflow-y: auto;
  max-height: 56vh;
}
</style>

<script setup lang="ts">
import { nextTick, reactive, ref, watch } from 'vue'
import { cancelMeeting, moveMeeting, type Brief } from '#shared/api/desk/desk'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** How a meeting went: each answer with what it does, by number key; it can be moved or cancelled instead. */
type Meeting = NonNullable<Brief['meeting']>
const props = defineProps<{ meeting: Meeting; person: Brief['prospect'] }>()
const emit = defineEmits<{
  result: [result: Meeting['results'][number]]
  /** It was moved or cancelled. */ changed: []
}>()
const times = useTimes()
const notices = useNotices()
const moving = ref(false)
const to = reactive({ at: null as number | null, minutes: 30 })
const when = ref<{ settle(): Promise<number | null>; focus(): void } | null>(null)
const { formError, send } = useSending()
watch(
  () => props.meeting.id,
  () => {
    moving.value = false
  },
)

async function openMove(): Promise<void> {
  Object.assign(to, { at: null, minutes: Math.round((props.meeting.endAt - props.meeting.startAt) / 60_000) })
  moving.value = true
  await nextTick()
  when.value?.focus()
}
const move = () =>
  send(async () => {
    const startAt = (await when.value?.settle()) ?? null
    if (startAt === null) return
    const { summary: label } = await call(moveMeeting, {
      params: { id: props.meeting.id },
      body: { id: newId(), startAt, minutes: Number(to.minutes), timeZone: props.meeting.timeZone },
    })
    notices.say(label)
    moving.value = false
    emit('changed')
  })
const cancel = () =>
  send(async () => {
    const { summary: label } = await call(cancelMeeting, {
      params: { id: props.meeting.id },
      body: { id: newId() },
    })
    notices.say(label)
    emit('changed')
  })
function pickKey(key: string): void {
  const { results } = props.meeting
  const result = results[Number(key) - 1]
  if (result) emit('result', result)
  else if (Number(key) === results.length + 1) void openMove()
  else if (Number(key) === results.length + 2) void cancel()
}
defineExpose({
  pickKey,
  close: () => {
    moving.value = false
  },
  isOpen: () => moving.value,
  snapshot: () => null,
  restore: () => {},
})
</script>

<template>
  <div class="results">
    <p class="mb-2">
      <b>{{ meeting.title }}</b><br /><span class="dim small num">{{ times.moment(meeting.startAt) }}</span>
    </p>
    <button v-for="(one, index) in meeting.results" :key="one.result" class="plain one" @click="emit('result', one)">
      <kbd>{{ index + 1 }}</kbd><span
        ><b>{{ one.label }}</b
        ><small>{{ one.summary }}</small></span
      >
    </button>
    <button class="plain one" :aria-expanded="moving" @click="openMove">
      <kbd>{{ meeting.results.length + 1 }}</kbd><span
        ><b>Move it</b><small>They get an update of the invitation.</small></span
      >
    </button>
    <form v-if="moving" class="move" @submit.prevent="move" @keydown.esc.stop="moving = false">
      <WhenField
        ref="when"
        v-model="to.at"
        kind="meeting"
        :prospect-id="person.id"
        :time-zone="person.timeZone"
        label="New time"
      />
      <p v-if="formError" class="wrong" role="alert">{{ formError.message }}</p>
      <div class="row">
        <v-btn type="submit" color="primary" size="small">Move</v-btn
        ><v-btn variant="text" size="small" @click="moving = false">Cancel</v-btn>
      </div>
    </form>
    <button class="plain one" @click="cancel">
      <kbd>{{ meeting.results.length + 2 }}</kbd><span><b>Canceled</b><small>They get a cancellation.</small></span>
    </button>
    <p v-if="formError && !moving" class="wrong" role="alert">{{ formError.message }}</p>
  </div>
</template>

<style scoped>
.results {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 4px;
}
.one {
  display: grid;
  grid-template-columns: 24px 1fr;
  gap: 8px;
  padding: 5px 9px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 7px;
  align-items: start;
}
.one:hover {
  background: var(--pine-soft);
}
b {
  font-weight: 600;
}
small {
  display: block;
  color: var(--dim);
  line-height: 1.25;
}
.move {
  display: grid;
  gap: 8px;
  padding: 8px 10px;
}
.wrong {
  color: var(--clay-deep);
  font-size: 12.5px;
}
</style>

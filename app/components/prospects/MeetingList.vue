<script setup lang="ts">
import { nextTick, reactive, ref } from 'vue'
import { MEETING_STATUSES } from '#core/enumerations'
import { cancelMeeting, moveMeeting } from '#shared/api/desk/desk'
import type { Prospect } from '#shared/api/prospects'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** A person's meetings; one that is booked can be moved or cancelled. */
const props = defineProps<{ person: Prospect; now: number }>()
const emit = defineEmits<{ changed: [] }>()
type Meeting = Prospect['meetings'][number]
const times = useTimes()
const session = useSession()
const notices = useNotices()
const moving = ref<Meeting | null>(null)
const to = reactive({ at: null as number | null, minutes: 30 })
const when = ref<{ settle(): Promise<number | null>; focus(): void } | null>(null)
const { formError, busy, send } = useSending()

function openMove(meeting: Meeting): void {
  moving.value = meeting
  Object.assign(to, { at: null, minutes: Math.round((meeting.endAt - meeting.startAt) / 60_000) })
  formError.value = null
  void nextTick(() => when.value?.focus())
}
const move = () =>
  send(async () => {
    const startAt = (await when.value?.settle()) ?? null
    if (startAt === null || !moving.value) return
    const { summary: label } = await call(moveMeeting, {
      params: { id: moving.value.id },
      body: { id: newId(), startAt, minutes: Number(to.minutes), timeZone: moving.value.timeZone },
    })
    notices.say(label)
    moving.value = null
    emit('changed')
  })
const cancel = (meeting: Meeting) =>
  send(async () => {
    const { summary: label } = await call(cancelMeeting, {
      params: { id: meeting.id },
      body: { id: newId() },
    })
    notices.say(label)
    emit('changed')
  })
</script>

<template>
  <section class="panel">
    <h3>Meetings</h3>
    <div v-for="one in person.meetings" :key="one.id" class="meeting">
      <p>
        <b :class="{ off: one.status === 'cancelled' }">{{ one.title }}</b>
        <span
          v-if="one.status !== 'booked'"
          class="chip ml-1"
          :class="{ pine: one.status === 'held', clay: one.status === 'no_show' }"
          >{{ MEETING_STATUSES[one.status] }}</span
        >
      </p>
      <p class="dim small num">
        {{ times.moment(one.startAt)
        }}<template v-if="one.timeZone !== session.timeZone">
          · {{ times.clock(one.startAt, one.timeZone) }} in {{ times.zoneName(one.timeZone) }}</template
        >
      </p>
      <p v-if="one.place" class="dim small">{{ one.place }}</p>
      <p v-if="one.status === 'booked' && one.startAt > now" class="row">
        <button class="link small" @click="openMove(one)">Move</button
        ><button class="link small" @click="cancel(one)">Cancel meeting</button>
      </p>
    </div>
    <p v-if="formError && !moving" class="small wrong" role="alert">{{ formError.message }}</p>
    <v-dialog
      :model-value="moving !== null"
      max-width="440"
      aria-label="Move the meeting"
      @update:model-value="moving = null"
    >
      <v-card v-if="moving" class="pa-5">
        <form class="stack" @submit.prevent="move">
          <h2>Move “{{ moving.title }}”</h2>
          <p class="dim">It was {{ times.moment(moving.startAt) }}. They get an update of the invitation.</p>
          <WhenField
            ref="when"
            v-model="to.at"
            kind="meeting"
            :prospect-id="props.person.id"
            :time-zone="person.timeZone"
            label="New time"
          />
          <v-text-field v-model="to.minutes" type="number" min="5" max="600" label="Minutes" />
          <FormFooter action="Move" :busy="busy" :form-error="formError" @cancel="moving = null" />
        </form>
      </v-card>
    </v-dialog>
  </section>
</template>

<style scoped>
.meeting + .meeting {
  margin-top: 8px;
}
.off {
  text-decoration: line-through;
}
.formError {
  color: var(--clay-deep);
}
</style>

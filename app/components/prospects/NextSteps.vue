<script setup lang="ts">
import { cancelScheduledAction } from '#shared/api/events/history'
import { type Prospect } from '#shared/api/prospects'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** What comes next for a prospect: open tasks, and what outcomes have scheduled, with what it follows from. */
defineProps<{ person: Prospect }>()
const emit = defineEmits<{ changed: [] }>()
type Scheduled = Prospect['scheduled'][number]
const times = useTimes()
const notices = useNotices()
const { formError, busy, send } = useSending()

const because = ({ outcome, causedAt }: Scheduled) =>
  [outcome && `because of “${outcome}”`, causedAt && times.moment(causedAt)].filter(Boolean).join(', ')
const cancel = (one: Scheduled) =>
  send(async () => {
    await call(cancelScheduledAction, { params: { id: one.id }, body: { id: newId() } })
    notices.say(`Canceled: ${one.summary}.`)
    emit('changed')
  })
</script>

<template>
  <section class="panel">
    <h3>Next</h3>
    <p v-for="task in person.tasks" :key="task.id" class="spread">
      <span>{{ task.title }}</span><span class="num dim small">{{ times.moment(task.dueAt) }}</span>
    </p>
    <div v-for="one in person.scheduled" :key="one.id" class="scheduled">
      <p class="spread">
        <span>{{ one.summary }}</span><span class="num dim small">{{ times.moment(one.at) }}</span>
      </p>
      <p class="spread">
        <span class="dim small">{{ because(one) }}</span><button
          class="link small"
          :disabled="busy"
          :aria-label="`Cancel: ${one.summary}`"
          @click="cancel(one)"
        >
          Cancel
        </button>
      </p>
    </div>
    <p v-if="formError" class="clay small" role="alert">{{ formError.message }}</p>
  </section>
</template>

<style scoped>
.num {
  white-space: nowrap;
}
.scheduled {
  border-left: 2px solid var(--slate);
  padding-left: 8px;
}
.clay {
  color: var(--clay-deep);
}
</style>

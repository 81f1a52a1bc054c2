<script setup lang="ts">
import { ref } from 'vue'
import { planTask } from '#shared/api/desk'
import { undo } from '#shared/api/prospects'
import { ApiError, call } from '~/composables/api'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** The next touch with somebody, planned from their row in one step: a call some days from now, at ten. */
const props = defineProps<{ person: { id: string, name: string, phone: string | null }, /** Reads the table again; this is gone from the row by then. */ again: () => void }>()
const times = useTimes()
const notices = useNotices()
const session = useSession()
const own = ref('')
const CHOICES = [{ days: 0, says: 'today' }, { days: 1, says: 'tomorrow' }, { days: 3, says: 'in 3 days' }, { days: 7, says: 'in a week' }, { days: 14, says: 'in 2 weeks' }, { days: 30, says: 'in a month' }]

async function plan(dueAt: number): Promise<void> {
  const id = crypto.randomUUID()
  try {
    await call(planTask, { params: { id: props.person.id }, body: { id, task: props.person.phone ? 'call' : 'task', title: 'Keep in touch', dueAt } })
    notices.say(`${props.person.name}: planned for ${times.moment(dueAt)}.`, { label: 'Take it back', run: () => void back(id) })
    props.again()
  }
  catch (error) {
    notices.wrong(error)
  }
}
async function back(id: string): Promise<void> {
  try {
    await call(undo, { params: { id }, body: { id: crypto.randomUUID() } })
    props.again()
  }
  catch (error) {
    if (error instanceof ApiError) notices.wrong(error)
  }
}
function inDays(days: number): number {
  if (days === 0) return session.now
  const parts = times.toInput(session.now + days * 86_400_000)
  return times.fromInput(`${parts.year}-${parts.month}-${parts.day}`, '10:00')
}
</script>

<template>
  <v-menu location="bottom start">
    <template #activator="{ props: act }"><button v-bind="act" class="link" :aria-label="`Plan the next touch with ${person.name}`">Plan</button></template>
    <v-list><v-list-item v-for="choice in CHOICES" :key="choice.days" :title="choice.says" @click="plan(inDays(choice.days))" />
      <v-list-item @click.stop><label class="row">on <input v-model="own" type="date" aria-label="On another day" @change="own && plan(times.fromInput(own, '10:00'))"></label></v-list-item></v-list>
  </v-menu>
</template>

<style scoped>
.link { display: inline-block; min-height: 20px; } input { font: inherit; border: 1px solid var(--line); border-radius: 5px; padding: 2px 5px; background: #fff; }
</style>

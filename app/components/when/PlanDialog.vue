<script setup lang="ts">
import { nextTick, reactive, ref, watch } from 'vue'
import { planTask } from '#shared/api/desk'
import { undo } from '#shared/api/prospects'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'

/** Plans a call or a to-do with someone: what, and when. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ person: { id: string; name: string; timeZone: string }; hasPhone: boolean }>()
const emit = defineEmits<{ done: [] }>()
const notices = useNotices()
const plan = reactive({ task: 'call' as 'call' | 'task', title: '', at: null as number | null })
const when = ref<{ settle(): Promise<number | null>; focus(): void } | null>(null)
const { formError, busy, send } = useSending()
watch(open, (now) => {
  if (!now) return
  Object.assign(plan, { task: props.hasPhone ? 'call' : 'task', title: '', at: null })
  formError.value = null
  void nextTick(() => when.value?.focus())
})
async function takeBack(id: string): Promise<void> {
  await call(undo, { params: { id }, body: { id: crypto.randomUUID() } }).then(() => emit('done'), notices.error)
}
const save = () =>
  send(async () => {
    const dueAt = (await when.value?.settle()) ?? null
    if (dueAt === null) return
    const id = crypto.randomUUID()
    const title = plan.title.trim() || (plan.task === 'call' ? 'Call' : 'To do')
    const { summary: label } = await call(planTask, {
      params: { id: props.person.id },
      body: { id, task: plan.task, title, dueAt },
    })
    notices.say(`${props.person.name}: ${label}`, { label: 'Undo', run: () => void takeBack(id) })
    open.value = false
    emit('done')
  })
</script>

<template>
  <v-dialog v-model="open" max-width="440" aria-label="Plan a next step">
    <v-card class="pa-5">
      <form class="stack" @submit.prevent="save">
        <h2>Next step with {{ person.name }}</h2>
        <div class="row" role="group" aria-label="What">
          <button
            type="button"
            class="plain chip"
            :class="{ pine: plan.task === 'call' }"
            :aria-pressed="plan.task === 'call'"
            @click="plan.task = 'call'"
          >
            Call
          </button>
          <button
            type="button"
            class="plain chip"
            :class="{ pine: plan.task === 'task' }"
            :aria-pressed="plan.task === 'task'"
            @click="plan.task = 'task'"
          >
            To-do
          </button>
        </div>
        <WhenField
          ref="when"
          v-model="plan.at"
          :kind="plan.task"
          :prospect-id="person.id"
          :time-zone="person.timeZone"
          begin
        />
        <v-text-field
          v-model="plan.title"
          :label="plan.task === 'call' ? 'About (optional)' : 'What to do'"
          maxlength="200"
          :error-messages="formError?.at('title')"
        />
        <p v-if="formError && !formError.at('title')" class="notice clay" role="alert">{{ formError.message }}</p>
        <div class="row">
          <v-btn type="submit" color="primary" :loading="busy">Plan</v-btn
          ><v-btn variant="text" @click="open = false">Cancel</v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.stack {
  display: grid;
  gap: 14px;
}
.chip {
  padding: 3px 12px;
  background: var(--shade);
}
.chip.pine {
  background: var(--pine-soft);
}
</style>

<script setup lang="ts">
import { nextTick, reactive, ref, watch } from 'vue'
import { TO_DO_KINDS, choicesOf, type ToDoKind } from '#core/enumerations'
import { planTask } from '#shared/api/desk/desk'
import type { EmailTemplate } from '#shared/api/email/templates'
import { undo } from '#shared/api/events/history'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'

/** Plans a call, an email, a text or another to-do with someone: what, when, and what to say then. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ person: { id: string; name: string; timeZone: string }; hasPhone: boolean }>()
const emit = defineEmits<{ done: [] }>()
const notices = useNotices()
const plan = reactive({ task: 'call' as ToDoKind, title: '', at: null as number | null })
const NO_CONTENT = { subject: '', body: '', html: null as string | null, attachments: [] as string[] }
const content = ref(NO_CONTENT)
/** What to say is written where it is asked for. */
const saying = ref(false)
const TITLES: Readonly<Record<ToDoKind, string>> = {
  call: 'About (optional)',
  email: 'About (optional)',
  text: 'About (optional)',
  task: 'What to do',
}
const BODIES: Readonly<Record<ToDoKind, string>> = {
  call: 'Write what to say',
  email: 'Write the email now',
  text: 'Write the text now',
  task: 'Add details',
}
const when = ref<{ settle(): Promise<number | null>; focus(): void } | null>(null)
const { formError, busy, send } = useSending()
watch(open, (now) => {
  if (!now) return
  Object.assign(plan, { task: props.hasPhone ? 'call' : 'task', title: '', at: null })
  content.value = NO_CONTENT
  saying.value = false
  formError.value = null
  void nextTick(() => when.value?.focus())
})
function take({ subject, body, html, attachments }: EmailTemplate): void {
  content.value = { subject, body, html, attachments }
}
async function takeBack(id: string): Promise<void> {
  await call(undo, { params: { id }, body: { id: newId() } }).then(() => emit('done'), notices.error)
}
const save = () =>
  send(async () => {
    const dueAt = (await when.value?.settle()) ?? null
    if (dueAt === null) return
    const id = newId()
    const title = plan.title.trim() || content.value.subject.trim() || TO_DO_KINDS[plan.task]
    const { summary: label } = await call(planTask, {
      params: { id: props.person.id },
      body: { id, task: plan.task, title, dueAt, ...(saying.value ? content.value : NO_CONTENT) },
    })
    notices.say(`${props.person.name}: ${label}`, { label: 'Undo', run: () => void takeBack(id) })
    open.value = false
    emit('done')
  })
</script>

<template>
  <v-dialog v-model="open" max-width="480" scrollable aria-label="Plan a next step">
    <v-card class="pa-5">
      <form class="stack" @submit.prevent="save">
        <h2>Next step with {{ person.name }}</h2>
        <div class="row" role="group" aria-label="What">
          <button
            v-for="kind in choicesOf(TO_DO_KINDS)"
            :key="kind.value"
            type="button"
            class="plain chip"
            :class="{ pine: plan.task === kind.value }"
            :aria-pressed="plan.task === kind.value"
            @click="plan.task = kind.value"
          >
            {{ kind.title }}
          </button>
        </div>
        <WhenField
          ref="when"
          v-model="plan.at"
          :kind="plan.task === 'call' || plan.task === 'text' ? 'call' : 'task'"
          :prospect-id="person.id"
          :time-zone="person.timeZone"
          begin
        />
        <v-text-field
          v-model="plan.title"
          :label="TITLES[plan.task]"
          maxlength="200"
          :error-messages="formError?.at('title')"
        />
        <button v-if="!saying" type="button" class="link small" @click="saying = true">{{ BODIES[plan.task] }}</button>
        <LazyEmailEditor
          v-else-if="plan.task === 'email'"
          v-model="content"
          template
          simple
          offer-templates
          :error-at="(field) => formError?.at(field)"
          @template="take"
        />
        <v-textarea
          v-else
          v-model="content.body"
          :label="plan.task === 'task' ? 'Details' : 'What to say'"
          rows="3"
          auto-grow
          autofocus
          maxlength="50000"
          :error-messages="formError?.at('body')"
        />
        <p
          v-if="formError && !['title', 'body', 'subject'].some((field) => formError?.at(field))"
          class="notice clay"
          role="alert"
        >
          {{ formError.message }}
        </p>
        <FormFooter action="Plan" :busy="busy" @cancel="open = false" />
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

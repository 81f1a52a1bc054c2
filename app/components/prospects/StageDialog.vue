<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { moveProspect, type Prospect } from '#shared/api/prospects'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** A move to another stage. What its gate still wants is asked for here, and nothing that was typed is lost. */
const props = defineProps<{
  person: Prospect
  stages: readonly { id: string; name: string; gate: { reason?: boolean; note?: boolean } }[]
  gateFields: readonly { key: string; label: string }[]
}>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ done: [] }>()
const session = useSession()
const notices = useNotices()
const { formError, busy, send } = useSending()
const move = reactive({ to: '', reason: '', note: '', override: '' })
const fill = ref<{ save(): Promise<boolean> } | null>(null)
watch(open, (now) => {
  formError.value = null
  if (now) Object.assign(move, { to: props.person.stage.id, reason: '', note: '', override: '' })
})
watch(
  () => move.to,
  () => {
    formError.value = null
  },
)
const gate = computed(() => props.stages.find((stage) => stage.id === move.to)?.gate ?? {})
const missing = computed(() =>
  props.gateFields
    .filter((field) => field.key !== 'companyId' && formError.value?.at(`fields.${field.key}`))
    .map(({ key, label }) => ({ key, label })),
)
/** What cannot be filled in here: too few attempts, no company. */
const stageErrors = computed(() =>
  formError.value?.problems
    .filter(({ field }) => field === 'stage' || field === 'fields.companyId')
    .map((problem) => problem.message),
)
async function save(): Promise<void> {
  if (!move.override && missing.value.length && !(await fill.value?.save())) return
  await send(async () => {
    const { summary: label } = await call(moveProspect, {
      params: { id: props.person.id },
      body: {
        id: newId(),
        to: move.to,
        reason: move.reason || null,
        note: move.note || null,
        override: move.override || null,
      },
    })
    if (label) notices.say(label)
    open.value = false
    emit('done')
  })
}
</script>

<template>
  <v-dialog v-model="open" max-width="460" aria-label="Change stage">
    <v-card class="pa-5">
      <form class="stack" @submit.prevent="save">
        <h2>Change the stage of {{ person.name }}</h2>
        <v-select
          v-model="move.to"
          v-focus
          :items="stages"
          item-title="name"
          item-value="id"
          label="Stage"
          :error-messages="stageErrors"
        />
        <MissingFields v-if="missing.length" ref="fill" :key="move.to" :person="person" :missing="missing" />
        <v-text-field
          v-model="move.reason"
          :label="gate.reason ? 'Reason' : 'Reason (optional)'"
          maxlength="500"
          :error-messages="formError?.at('reason')"
        />
        <v-textarea
          v-model="move.note"
          :label="gate.note ? 'Note' : 'Note (optional)'"
          rows="2"
          maxlength="10000"
          :error-messages="formError?.at('note')"
        />
        <v-text-field
          v-if="session.manages"
          v-model="move.override"
          label="Override the gate (optional)"
          hint="Why. It stays in the activity"
          persistent-hint
        />
        <FormFooter
          action="Change stage"
          :disabled="move.to === person.stage.id"
          :busy="busy"
          :form-error="formError"
          at-fields
          @cancel="open = false"
        />
      </form>
    </v-card>
  </v-dialog>
</template>

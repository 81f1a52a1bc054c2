<script setup lang="ts">
import { ref, watch } from 'vue'
import type { z } from 'zod'
import type { ActionNames } from '#core/actions/kind/define'
import type { Field } from '#core/filter/fields'
import { COUNTS_AS, OUTCOME_USES, REQUIRED_INPUTS, choicesOf } from '#core/enumerations'
import { actionInWords } from '#core/actions/registry'
import { stages } from '#shared/api/settings/stages'
import { addOutcome, editOutcome, type listOutcomes } from '#shared/api/settings/outcomes'
import { call } from '~/api/call'
import { useOptions } from '~/composables/options'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'
import { blankAction } from './actions/actionForms'

type Settings = z.output<typeof listOutcomes.response>
type Outcome = Settings['outcomes'][number]
/** An outcome being made (null) or changed, with everything that follows from it. */
const props = defineProps<{ outcome: Outcome | null; names: ActionNames; fields: readonly Field[] }>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ done: [] }>()
const notices = useNotices()
/** A new outcome, before anything is said of it. */
const BLANK = {
  name: '',
  countsAs: 'attempt' as const,
  usedFor: ['call' as const],
  leavesMessage: false,
  requiredInputs: [],
  requiredFields: [],
  reasons: [],
  actions: [],
}
const draft = ref<Omit<Outcome, 'id' | 'position' | 'faults'>>({
  ...BLANK,
})
const { formError, busy, send } = useSending()
const counts = choicesOf(COUNTS_AS)
const uses = choicesOf(OUTCOME_USES)
const requiredInputs = choicesOf(REQUIRED_INPUTS)
/** What gates may demand, an outcome may, too. */
const gateFields = useOptions(() => call(stages).then((answer) => answer.fields))

watch(open, (now) => {
  if (!now) return
  formError.value = null
  const {
    id: _id,
    position: _position,
    faults: _faults,
    ...given
  } = props.outcome ?? {
    ...{ id: '', position: 0, faults: [] },
    ...BLANK,
    actions: [blankAction('advance')],
  }
  draft.value = JSON.parse(JSON.stringify(given)) as typeof draft.value
})
/** What is wrong with an action, with any of its fields. */
const errorsOf = (index: number) =>
  (formError.value?.problems ?? [])
    .filter(({ field }) => `${field}.`.startsWith(`actions.${index}.`))
    .map(({ message }) => message)
/** Moves an action among the others; at either end it stays. */
function move(index: number, by: number): void {
  const { actions } = draft.value
  if (index + by >= 0 && index + by < actions.length) actions.splice(index + by, 0, ...actions.splice(index, 1))
}
const save = (archived = false) =>
  send(async () => {
    if (props.outcome) {
      await call(editOutcome, {
        params: { id: props.outcome.id },
        body: { ...draft.value, position: props.outcome.position, archived },
      })
    } else await call(addOutcome, { body: draft.value })
    notices.say(
      archived
        ? `“${draft.value.name}” is no longer offered. What was logged with it stays.`
        : `“${draft.value.name}” saved.`,
    )
    open.value = false
    emit('done')
  })
</script>

<template>
  <v-dialog v-model="open" max-width="880" aria-label="Outcome" scrollable>
    <v-card class="pa-5">
      <form class="form" @submit.prevent="save()">
        <h2>{{ outcome ? 'Edit outcome' : 'New outcome' }}</h2>
        <div class="pair">
          <v-text-field v-model="draft.name" v-focus label="Outcome name" :error-messages="formError?.at('name')" />
          <v-select v-model="draft.countsAs" :items="counts" label="A call counts as" />
        </div>
        <div class="pair">
          <v-select
            v-model="draft.usedFor"
            :items="uses"
            multiple
            label="Used for"
            :error-messages="formError?.at('usedFor')"
          />
          <CheckBox
            v-if="draft.usedFor.includes('call')"
            v-model="draft.leavesMessage"
            label="A message was left (voicemail)"
          />
        </div>
        <div class="pair">
          <v-select
            v-model="draft.requiredInputs"
            :items="requiredInputs"
            multiple
            label="Required inputs"
            placeholder="none: one key logs it"
            persistent-placeholder
          />
          <v-select
            v-model="draft.requiredFields"
            :items="gateFields"
            item-value="key"
            item-title="label"
            multiple
            label="Required fields, asked for where they are empty"
            placeholder="none"
            persistent-placeholder
          />
        </div>
        <v-combobox
          v-if="draft.requiredInputs.includes('reason')"
          v-model="draft.reasons"
          multiple
          chips
          closable-chips
          label="Reasons offered"
          hint="Enter after each"
          persistent-hint
          :error-messages="formError?.at('reasons')"
        />
        <div>
          <h3>Actions, in order</h3>
          <ol class="list">
            <OutcomeActionRow
              v-for="(_, index) in draft.actions"
              :key="index"
              v-model="draft.actions[index]!"
              :names="names"
              :fields="fields"
              :form-error="errorsOf(index)"
              @remove="draft.actions.splice(index, 1)"
              @up="move(index, -1)"
              @down="move(index, 1)"
            />
          </ol>
          <v-btn size="small" variant="outlined" class="mt-2" @click="draft.actions.push(blankAction('makeTask'))"
            >Add action</v-btn
          >
        </div>
        <p class="notice pine" role="status">
          <b>{{ draft.name || 'This outcome' }}:</b>
          {{
            draft.actions.length
              ? `${draft.actions.map((action) => actionInWords(action, names)).join('. ')}.`
              : 'no actions: only the touch is recorded.'
          }}
        </p>
        <p
          v-if="formError && (!formError.problems.length || formError.code !== 'invalid')"
          class="notice clay"
          role="alert"
        >
          {{ formError.message }}
        </p>
        <div class="spread">
          <FormFooter action="Save" :busy="busy" @cancel="open = false" />
          <v-btn v-if="outcome" variant="text" color="error" :disabled="busy" @click="save(true)"
            >Archive outcome</v-btn
          >
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 14px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.list {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}
@media (max-width: 600px) {
  .pair {
    grid-template-columns: 1fr;
  }
}
</style>

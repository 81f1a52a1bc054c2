<script setup lang="ts">
import { computed, reactive, watch } from 'vue'
import { CUSTOM_FIELD_KINDS, choicesOf } from '#core/enumerations'
import { guessKind } from '#core/text/customValue'
import { addField, type CustomField } from '#shared/api/settings/fields'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'

/** Makes a custom field for a column of a file, named and typed as the column is. */
const props = defineProps<{ heading: string; samples: readonly string[]; ofCompanies: boolean }>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{
  made: [field: { id: string; of: 'prospect' | 'company'; name: string; kind: CustomField['kind'] }]
}>()
/** A file’s cell holds one value: several choices are not offered. */
const kinds = choicesOf(CUSTOM_FIELD_KINDS).filter(({ value }) => value !== 'choices')
const draft = reactive({
  name: '',
  of: 'prospect' as 'prospect' | 'company',
  kind: 'text' as CustomField['kind'],
  choices: '',
})
const { formError, busy, send } = useSending()
const values = computed(() => [...new Set(props.samples.map((sample) => sample.trim()).filter(Boolean))])
watch(open, () => {
  formError.value = null
  Object.assign(draft, {
    name: props.heading.trim().slice(0, 60),
    of: props.ofCompanies ? 'company' : 'prospect',
    kind: guessKind(props.samples),
    choices: values.value.join('\n'),
  })
})
const create = () =>
  send(async () => {
    const choices =
      draft.kind === 'choice'
        ? draft.choices
            .split('\n')
            .map((line) => line.trim())
            .filter(Boolean)
        : []
    const { id } = await call(addField, { body: { of: draft.of, name: draft.name, kind: draft.kind, choices } })
    emit('made', { id, of: draft.of, name: draft.name, kind: draft.kind })
    open.value = false
  })
</script>

<template>
  <v-dialog v-model="open" max-width="480" aria-label="New field">
    <v-card class="pa-5">
      <h2>New field</h2>
      <p class="dim mb-3">Values in the file: {{ values.slice(0, 4).join(' · ') || 'none' }}</p>
      <form class="form" @submit.prevent="create">
        <v-text-field
          v-model="draft.name"
          v-focus
          label="Name"
          maxlength="60"
          :error-messages="formError?.at('name')"
        />
        <v-select v-model="draft.kind" :items="kinds" label="Kind" :error-messages="formError?.at('kind')" />
        <v-select
          v-if="!ofCompanies"
          v-model="draft.of"
          :items="[
            { value: 'prospect', title: 'People' },
            { value: 'company', title: 'Companies' },
          ]"
          label="Field of"
        />
        <v-textarea
          v-if="draft.kind === 'choice'"
          v-model="draft.choices"
          label="Choices, one per line"
          rows="4"
          :error-messages="formError?.at('choices')"
          hint="Values not in this list are skipped"
          persistent-hint
        />
        <FormFooter
          action="Create"
          :disabled="!draft.name.trim()"
          :busy="busy"
          :form-error="formError"
          at-fields
          @cancel="open = false"
        />
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
}
</style>

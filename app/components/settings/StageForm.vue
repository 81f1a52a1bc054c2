<script setup lang="ts">
import { computed } from 'vue'
import type { ApiError } from '~/api/call'
import { KIND_CHOICES, type StageDraft } from './stageDraft'

/** A stage with its place, its kind and its gate, new or edited. */
const stage = defineModel<StageDraft>({ required: true })
const props = defineProps<{
  /** The other stages, in order. */
  others: readonly { id: string; name: string }[]
  fields: readonly { key: string; label: string }[]
  title: string
  busy: boolean
  formError: ApiError | null
  /** Whether it can be archived. */
  exists: boolean
}>()
const emit = defineEmits<{ save: []; cancel: []; archive: [] }>()
const places = computed(() => [
  { value: null, title: 'first' },
  ...props.others.map(({ id, name }) => ({ value: id, title: `after ${name}` })),
])
</script>

<template>
  <form class="form" @submit.prevent="emit('save')">
    <h2 class="wide">{{ title }}</h2>
    <v-text-field v-model="stage.name" v-focus label="Name" maxlength="60" :error-messages="formError?.at('name')" />
    <v-select v-model="stage.after" :items="places" label="Place" />
    <v-select v-model="stage.kind" :items="KIND_CHOICES" label="Kind" class="wide" />
    <h3 class="wide">To be moved in, a prospect</h3>
    <v-select
      v-model="stage.from"
      :items="others"
      item-value="id"
      item-title="name"
      multiple
      label="must be in one of these stages"
      placeholder="any stage"
      persistent-placeholder
      :error-messages="formError?.at('gate.from')"
    />
    <v-text-field
      v-model="stage.attempts"
      label="needs attempts, or a conversation"
      inputmode="numeric"
      placeholder="none"
      persistent-placeholder
      :error-messages="formError?.at('gate.attempts')"
    />
    <v-select
      v-model="stage.fields"
      :items="fields"
      item-value="key"
      item-title="label"
      multiple
      label="needs these details"
      placeholder="none"
      persistent-placeholder
      class="wide"
      :error-messages="formError?.at('gate.fields')"
    />
    <div class="row wide">
      <CheckBox v-model="stage.reason" label="needs a reason" />
      <CheckBox v-model="stage.note" label="needs a note" />
    </div>
    <p v-if="formError && !formError.problems.length" class="notice clay wide" role="alert">{{ formError.message }}</p>
    <div class="spread wide">
      <FormFooter action="Save" :busy="busy" @cancel="emit('cancel')" />
      <v-btn v-if="exists" variant="text" color="error" :disabled="busy" @click="emit('archive')">Archive stage</v-btn>
    </div>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px 14px;
}
.wide {
  grid-column: 1 / -1;
}
@media (max-width: 560px) {
  .form {
    grid-template-columns: 1fr;
  }
}
</style>

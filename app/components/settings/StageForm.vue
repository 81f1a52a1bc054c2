<script setup lang="ts">
import type { StageDraft } from './stageDraft'

/** A stage with its kind and its gate, new or edited where it stands. */
const stage = defineModel<StageDraft>({ required: true })
defineProps<{
  kinds: { value: string; title: string }[]
  fields: { key: string; label: string }[]
  formError: string
}>()
const emit = defineEmits<{ save: []; cancel: [] }>()
</script>

<template>
  <form class="form" @submit.prevent="emit('save')">
    <v-text-field v-model="stage.name" label="Name" maxlength="60" />
    <v-text-field v-model="stage.attempts" label="Attempts before" inputmode="numeric" placeholder="none" />
    <v-select v-model="stage.kind" :items="kinds" label="Kind" class="wide" />
    <div class="row wrap demands">
      <label><input v-model="stage.reason" type="checkbox" /> a reason</label>
      <label><input v-model="stage.note" type="checkbox" /> a note</label>
    </div>
    <fieldset class="row wrap demands">
      <legend class="dim">Required fields:</legend>
      <label v-for="field in fields" :key="field.key"
        ><input v-model="stage.fields" type="checkbox" :value="field.key" /> {{ field.label }}</label
      >
    </fieldset>
    <p v-if="formError" class="notice clay" role="alert">{{ formError }}</p>
    <div class="row">
      <v-btn size="small" color="primary" type="submit">Save</v-btn>
      <v-btn size="small" variant="text" @click="emit('cancel')">Cancel</v-btn>
    </div>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: 1fr 160px;
  gap: 10px 14px;
  padding: 8px 0;
}
.wide,
.form > .demands,
.form > .notice {
  grid-column: 1 / -1;
}
.demands {
  gap: 4px 16px;
  flex-wrap: wrap;
}
.demands label {
  white-space: nowrap;
  display: inline-flex;
  gap: 6px;
  align-items: center;
  min-height: 24px;
}
fieldset {
  border: 0;
  padding: 0;
}
legend {
  float: left;
  margin-right: 12px;
}
</style>

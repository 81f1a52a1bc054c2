<script setup lang="ts">
import type { Import } from '#shared/api/imports'

/** The columns of a file, each with the field it goes to and some of its values. */
const props = defineProps<{
  headings: readonly string[]
  samples: Import['samples']
  fields: readonly { value: string; title: string }[]
  mapping: Readonly<Record<string, string>>
}>()
const emit = defineEmits<{ choose: [column: number, select: HTMLSelectElement] }>()
const isTaken = (column: number, field: string) =>
  field !== '' && props.mapping[column] !== field && Object.values(props.mapping).includes(field)
function samplesOf(column: number): string {
  const values = props.samples
    .map((row) => row[column])
    .filter(Boolean)
    .slice(0, 4)
    .join(' · ')
  return values.length > 150 ? `${values.slice(0, 150)}…` : values || '—'
}
</script>

<template>
  <div class="scroll">
    <table class="sheet">
      <thead>
        <tr>
          <th>Column</th>
          <th>Field</th>
          <th>Values in the file</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(heading, column) in headings" :key="column">
          <td>
            <b>{{ heading }}</b>
          </td>
          <td>
            <select
              :value="mapping[column] ?? ''"
              :aria-label="`Where ${heading} goes`"
              @change="emit('choose', column, $event.target as HTMLSelectElement)"
            >
              <option
                v-for="field in fields"
                :key="field.value"
                :value="field.value"
                :disabled="isTaken(column, field.value)"
              >
                {{ field.title }}
              </option>
            </select>
          </td>
          <td class="dim values">{{ samplesOf(column) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  overflow: auto;
  max-height: 60vh;
}
select {
  min-width: 190px;
}
.values {
  max-width: 420px;
  overflow-wrap: anywhere;
}
</style>

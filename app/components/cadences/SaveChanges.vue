<script setup lang="ts">
import { computed } from 'vue'
import type { StepChange } from '#core/cadence/changes'

/** Says before a running cadence is saved what becomes of the people who are at steps that were changed. */
const props = defineProps<{
  changes: readonly StepChange[]
  /** How many are in the cadence. */
  people: number
}>()
const emit = defineEmits<{ save: []; cancel: [] }>()
const open = computed({ get: () => props.changes.length > 0, set: (on) => (on ? undefined : emit('cancel')) })
const others = computed(() => props.people - props.changes.reduce((sum, change) => sum + change.people, 0))
const count = (people: number) => `${people.toLocaleString('en-US')} ${people === 1 ? 'prospect' : 'prospects'}`
function becomes({ what, next }: StepChange): string {
  if (what === 'changed') return 'get it as it is now, when they were due'
  return next ? `go on to “${next}”` : 'are through'
}
</script>

<template>
  <v-dialog v-model="open" max-width="520" aria-label="Save changes to a running cadence">
    <v-card class="pa-5">
      <h2>{{ count(people) }} {{ people === 1 ? 'is' : 'are' }} in this cadence</h2>
      <ul class="my-3">
        <li v-for="change in changes" :key="change.id">
          <b>{{ count(change.people) }}</b> at “{{ change.name }}”{{
            change.what === 'deleted' ? ', which is deleted' : ''
          }}: {{ becomes(change) }}.
        </li>
        <li v-if="others > 0">
          <b>{{ others.toLocaleString('en-US') }}</b> at other steps stay where they are, and go on with the new ones.
        </li>
      </ul>
      <FormFooter action="Save" @act="emit('save')" @cancel="emit('cancel')" />
    </v-card>
  </v-dialog>
</template>

<style scoped>
ul {
  padding-left: 18px;
}
</style>

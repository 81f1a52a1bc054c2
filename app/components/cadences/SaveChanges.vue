<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { StepChange } from '#core/cadence/changes'

/** Asks, before the steps of a running cadence are changed, what is to become of the people in it. */
const props = defineProps<{
  changes: readonly StepChange[]
  /** How many are in the cadence. */
  people: number
}>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ save: [people: 'move' | 'finish'] }>()
const choice = ref<'move' | 'finish'>('move')
watch(open, () => {
  choice.value = 'move'
})
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
      <v-radio-group v-model="choice" hide-details class="mt-3" aria-label="For people in it">
        <v-radio value="move" label="They switch to the changed steps" />
        <v-radio
          value="finish"
          label="They finish the steps as they were; people who start from now on get the new steps"
        />
      </v-radio-group>
      <ul v-if="choice === 'move'" class="my-3">
        <li v-for="change in changes" :key="change.id">
          <b>{{ count(change.people) }}</b> at “{{ change.name }}”{{
            change.what === 'deleted' ? ', which is deleted' : ''
          }}: {{ becomes(change) }}.
        </li>
        <li v-if="others > 0">
          <b>{{ others.toLocaleString('en-US') }}</b> at other steps stay where they are, then go on with the new steps.
        </li>
      </ul>
      <p v-else class="my-3">
        Changes to sending windows and to entry and exit rules apply to everyone right away. Results of the new steps
        start at zero; those of the earlier version stay listed below them.
      </p>
      <FormFooter action="Save" @act="emit('save', choice)" @cancel="open = false" />
    </v-card>
  </v-dialog>
</template>

<style scoped>
ul {
  padding-left: 18px;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import type { z } from 'zod'
import type { editBlock } from '#shared/api/blocks/blocks'
import type { ApiError } from '~/api/call'

/** How many lines a call block dials at once for each caller, and what who answers hears when nobody is free. */
type Content = Omit<z.input<typeof editBlock.body>, 'version'>
const block = defineModel<Content>({ required: true })
const props = defineProps<{ formError: ApiError | null }>()
const part = <K extends keyof Content>(key: K) =>
  computed({
    get: () => block.value[key],
    set: (value) => {
      block.value = { ...block.value, [key]: value }
    },
  })
const [lines, campaign, callBackMessage, leavesMessages] = [
  part('lines'),
  part('campaign'),
  part('callBackMessage'),
  part('leavesMessages'),
]
const LINES = [
  { value: 1, title: 'One at a time' },
  { value: 2, title: 'Up to two for each caller' },
  { value: 3, title: 'Up to three for each caller' },
]
const at = (field: string) => props.formError?.at(field)
</script>

<template>
  <v-select v-model="lines" :items="LINES" label="Lines dialed at once" :error-messages="at('lines')" />
  <template v-if="lines !== 1">
    <v-text-field
      v-model="campaign"
      label="Campaign"
      maxlength="120"
      :placeholder="block.name || 'the name of the block'"
      persistent-placeholder
      :error-messages="at('campaign')"
    />
    <v-textarea
      v-model="callBackMessage"
      class="wide"
      label="Message when no caller is free"
      rows="2"
      auto-grow
      maxlength="500"
      hint="Say who is calling, with a number to call back. They are called again first."
      persistent-hint
      :error-messages="at('callBackMessage')"
    />
    <CheckBox v-model="leavesMessages" class="wide" label="Leave the caller’s message in voicemail boxes" />
    <p class="wide dim small">
      Lines are dialed only for callers who are waiting. At most 3% of the calls of a campaign that a person answers may
      find nobody in 30 days (16 CFR 310.4): fewer lines are dialed before that is reached.
    </p>
  </template>
</template>

<style scoped>
.wide {
  grid-column: 1 / -1;
}
</style>

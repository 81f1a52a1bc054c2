<script setup lang="ts">
import type { ApiError } from '~/api/call'

/** The end of a form: what went wrong, the button that does it (it submits the form around it), and "Cancel". */
defineProps<{
  action: string
  busy?: boolean
  disabled?: boolean
  /** What it does cannot be undone, or takes something away. */
  danger?: boolean
  formError?: ApiError | null
  /** The form shows problems at their fields: here only what belongs to no field. */
  atFields?: boolean
}>()
const emit = defineEmits<{ act: []; cancel: [] }>()
</script>

<template>
  <div>
    <p v-if="formError && !(atFields && formError.problems.length)" class="notice clay mb-3" role="alert">
      {{ formError.message }}
    </p>
    <div class="row">
      <v-btn
        type="submit"
        :color="danger ? 'error' : 'primary'"
        :loading="busy"
        :disabled="disabled"
        @click="emit('act')"
        >{{ action }}</v-btn
      >
      <v-btn variant="text" @click="emit('cancel')">Cancel</v-btn>
    </div>
  </div>
</template>

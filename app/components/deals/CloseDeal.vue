<script setup lang="ts">
import { reactive, ref } from 'vue'
import { closeDeal } from '#shared/api/deals'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { readMoney } from '~/composables/money'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'

/** Closes a deal: won, with what it came to; lost, with the reason. */
const props = defineProps<{ deal: { id: string; name: string; value: number | null } }>()
const emit = defineEmits<{ done: [] }>()
const notices = useNotices()
const result = ref<'won' | 'lost' | null>(null)
const given = reactive({ value: '', reason: '' })
const REASONS = ['No budget', 'Chose a competitor', 'No decision', 'Bad timing', 'Not a fit']
const { formError, busy, send } = useSending()
function ask(which: 'won' | 'lost'): void {
  Object.assign(given, { value: String(props.deal.value ?? ''), reason: '' })
  formError.value = null
  result.value = which
}
const valueError = ref('')
const save = () =>
  send(async () => {
    const value = readMoney(given.value)
    valueError.value = Number.isNaN(value) ? 'Enter an amount, like 1,250' : ''
    if (valueError.value || !result.value) return
    const body = {
      id: newId(),
      result: result.value,
      reason: given.reason || null,
      ...(result.value === 'won' && { value }),
    }
    const { summary: label } = await call(closeDeal, { params: { id: props.deal.id }, body })
    notices.say(label)
    result.value = null
    emit('done')
  })
</script>

<template>
  <span class="row closing">
    <button class="link small" :aria-label="`Won: ${deal.name}`" @click="ask('won')">Won</button>
    <button class="link small" :aria-label="`Lost: ${deal.name}`" @click="ask('lost')">Lost</button>
    <v-dialog
      :model-value="result !== null"
      max-width="420"
      :aria-label="result === 'won' ? 'Deal won' : 'Deal lost'"
      @update:model-value="result = null"
    >
      <v-card class="pa-5">
        <form class="stack" @submit.prevent="save">
          <h2>{{ deal.name }} is {{ result }}</h2>
          <p class="dim">
            {{
              result === 'won' ? 'The company becomes a customer.' : 'The company is open again unless another deal is.'
            }}
          </p>
          <v-text-field
            v-if="result === 'won'"
            v-model="given.value"
            v-focus
            label="Value"
            inputmode="decimal"
            :error-messages="valueError || formError?.at('value')"
          />
          <v-combobox
            v-model="given.reason"
            v-focus="result === 'lost'"
            :items="REASONS"
            :label="result === 'won' ? 'Why (optional)' : 'Why'"
            maxlength="500"
            :error-messages="formError?.at('reason')"
          />
          <p v-if="formError && !formError.problems.length" class="notice clay" role="alert">{{ formError.message }}</p>
          <div class="row">
            <v-btn type="submit" color="primary" :loading="busy">{{ result === 'won' ? 'Won' : 'Lost' }}</v-btn><v-btn
              variant="text"
              @click="result = null"
              >Cancel</v-btn
            >
          </div>
        </form>
      </v-card>
    </v-dialog>
  </span>
</template>

<style scoped>
.closing {
  display: inline-flex;
}
</style>

<script setup lang="ts">
import { computed, ref } from 'vue'
import type { z } from 'zod'
import { LINE_RESULTS, capitalized } from '#core/enumerations'
import { editLineOutcomes, getLineOutcomes } from '#shared/api/settings/lineOutcomes'
import { listOutcomes } from '#shared/api/settings/outcomes'
import { call } from '~/api/call'
import { useOptions } from '~/composables/options'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** Which outcome is logged by itself where a call of several lines ends without a person. */
const session = useSession()
const notices = useNotices()
const { formError, busy, send } = useSending()
const chosen = ref<z.output<typeof getLineOutcomes.response> | null>(null)
const outcomes = useOptions(() => call(listOutcomes).then((answer) => answer.outcomes))
const choices = computed(() =>
  outcomes.value.filter(
    (one) => one.usedFor.includes('call') && !one.requiredInputs.length && !one.requiredFields.length,
  ),
)
const results = Object.keys(LINE_RESULTS) as (keyof typeof LINE_RESULTS)[]
chosen.value = await call(getLineOutcomes).catch((error: unknown) => {
  notices.error(error)
  return null
})
const save = () =>
  send(async () => {
    await call(editLineOutcomes, { body: chosen.value! })
    notices.say('Saved.')
  })
</script>

<template>
  <section v-if="chosen" aria-label="Calls that no person answers">
    <h2>Calls that no person answers</h2>
    <p class="dim mb-3">
      Where a call block dials several lines at once, the dialer detects calls that no person answers. This outcome is
      logged for them, with all its actions.
    </p>
    <form class="form" novalidate @submit.prevent="save">
      <v-select
        v-for="result in results"
        :key="result"
        v-model="chosen[result]"
        :items="choices"
        item-value="id"
        item-title="name"
        :label="capitalized(LINE_RESULTS[result])"
        :disabled="!session.manages"
        :error-messages="formError?.at(result)"
      />
      <v-btn v-if="session.manages" type="submit" color="primary" :loading="busy">Save</v-btn>
      <p v-else class="dim small">Only managers can change this.</p>
    </form>
  </section>
</template>

<style scoped>
.form {
  display: grid;
  gap: 14px;
  max-width: 420px;
  justify-items: start;
}
.form > :deep(.v-input) {
  width: 100%;
}
</style>

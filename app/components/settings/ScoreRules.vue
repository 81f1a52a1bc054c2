<script setup lang="ts">
import { ref } from 'vue'
import { editScore, getScore, type Score } from '#shared/api/settings/settings'
import { ApiError, call } from '~/api/call'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** What behavior is worth, and from how many points on someone is warm or hot. */
const session = useSession()
const notices = useNotices()
const score = ref<Score | null>(null)
const formError = ref<ApiError | null>(null)
const WORTH: { key: keyof Score['points']; label: string }[] = [
  { key: 'reply', label: 'A reply' },
  { key: 'meeting', label: 'A meeting' },
  { key: 'conversation', label: 'A conversation' },
  { key: 'opened', label: 'An email opened' },
  { key: 'visit', label: 'A page visit' },
]
async function save(): Promise<void> {
  formError.value = null
  try {
    score.value = await call(editScore, { body: score.value! })
    notices.say('Saved. All prospects are being rescored.')
  } catch (error) {
    if (error instanceof ApiError && error.problems.length) formError.value = error
    else notices.error(error)
  }
}
// The settings wait until all their tables are there, so that nothing moves.
await call(getScore).then((response) => {
  score.value = response
}, notices.error)
</script>

<template>
  <section v-if="score">
    <h2>Score</h2>
    <p class="dim mb-4">
      Points for what people do. Prospects not rated by hand are warm or hot from the thresholds on, and cold below
      them.
    </p>
    <form class="worth" @submit.prevent="save">
      <v-text-field
        v-for="one in WORTH"
        :key="one.key"
        v-model.number="score.points[one.key]"
        type="number"
        :label="one.label"
        :readonly="!session.manages"
        :error-messages="formError?.at(`points.${one.key}`)"
      />
      <v-text-field
        v-model.number="score.warmFrom"
        type="number"
        min="1"
        label="Warm threshold"
        :readonly="!session.manages"
        :error-messages="formError?.at('warmFrom')"
      />
      <v-text-field
        v-model.number="score.hotFrom"
        type="number"
        min="2"
        label="Hot threshold"
        :readonly="!session.manages"
        :error-messages="formError?.at('hotFrom')"
      />
      <div v-if="session.manages"><v-btn type="submit" variant="outlined">Save</v-btn></div>
    </form>
  </section>
</template>

<style scoped>
section {
  margin-bottom: 34px;
}
.worth {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(170px, 1fr));
  gap: 10px 14px;
  align-items: start;
}
</style>

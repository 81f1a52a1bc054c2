<script setup lang="ts">
import { reactive, ref } from 'vue'
import { editRecordingSettings, getRecordingSettings } from '#shared/api/settings/recording'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** Whether calls are recorded, and for how long that is kept. */
const session = useSession()
const notices = useNotices()
const { formError, busy, send } = useSending()
const given = reactive({ recordsCalls: false, keptDays: '30' })
const count = ref(0)
async function read(): Promise<void> {
  const answer = await call(getRecordingSettings)
  Object.assign(given, { recordsCalls: answer.recordsCalls, keptDays: String(answer.keptDays) })
  count.value = answer.count
}
const save = () =>
  send(async () => {
    const body = { recordsCalls: given.recordsCalls, keptDays: given.keptDays === '' ? NaN : Number(given.keptDays) }
    await call(editRecordingSettings, { body })
    notices.say('Saved.')
    await read()
  })
await read().catch(notices.error)
</script>

<template>
  <section aria-label="Recording of calls">
    <h2>Recording of calls</h2>
    <p class="dim mb-3">
      Recorded calls can be listened to in the activity of a prospect by everyone who sees the prospect. The exchange
      announces at the start of each call that it is recorded; a rep can stop it during the call, and nothing of it is
      kept. Calls on a rep’s own phone and calls that come in are never recorded.
    </p>
    <form class="form" novalidate @submit.prevent="save">
      <label class="check"
        ><input v-model="given.recordsCalls" type="checkbox" :disabled="!session.manages" /> Record calls, and announce
        it at their start</label
      >
      <v-text-field
        v-model="given.keptDays"
        label="Keep recordings for (days)"
        inputmode="numeric"
        :disabled="!session.manages"
        :error-messages="formError?.at('keptDays')"
      />
      <p class="dim small">
        {{ count === 1 ? '1 recording is' : `${count.toLocaleString('en-US')} recordings are` }} kept now. A shorter
        time deletes those that are older.
      </p>
      <p v-if="!session.manages" class="dim small">Only managers can change this.</p>
      <v-btn v-else type="submit" color="primary" :loading="busy">Save</v-btn>
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
.check {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>

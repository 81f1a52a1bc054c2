<script setup lang="ts">
import { reactive } from 'vue'
import { DATE_STYLES, DIALERS, choicesOf } from '#core/enumerations'
import { editAccount } from '#shared/api/accounts'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** What users decide for themselves: their zone, how they read dates and call, and what ends their emails. */
const session = useSession()
const notices = useNotices()
const { formError, busy, send } = useSending()
const given = reactive({
  timeZone: session.user?.timeZone ?? '',
  dateStyle: session.user?.dateStyle ?? 'us',
  callsWith: session.user?.callsWith ?? 'dialer',
  signature: session.user?.signature ?? '',
  notifyByEmail: session.user?.notifyByEmail ?? false,
})
const save = () =>
  send(async () => {
    await call(editAccount, { body: { ...given } })
    await session.refresh()
    notices.say('Saved.')
  })
</script>

<template>
  <section>
    <h2 id="profile">Profile</h2>
    <form class="form" @submit.prevent="save">
      <ZoneField v-model="given.timeZone" label="Your time zone" :error-messages="formError?.at('timeZone')" />
      <v-select v-model="given.dateStyle" :items="choicesOf(DATE_STYLES)" label="Dates and times" />
      <v-select
        v-model="given.callsWith"
        :items="choicesOf(DIALERS)"
        label="Call with"
        :hint="given.callsWith === 'own_phone' ? 'Uphill gives the number to your phone. You log what came of it.' : ''"
        persistent-hint
      />
      <v-textarea
        v-model="given.signature"
        label="Signature"
        rows="4"
        maxlength="2000"
        hint="Ends the emails you write, and cadence emails where they say {{ signature }}"
        persistent-hint
        :error-messages="formError?.at('signature')"
      />
      <CheckBox v-model="given.notifyByEmail" label="Email me notifications I have not read within 5 minutes" />
      <p v-if="formError && !formError.problems.length" class="notice clay" role="alert">{{ formError.message }}</p>
      <div><v-btn type="submit" color="primary" :loading="busy">Save</v-btn></div>
    </form>
  </section>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
  max-width: 460px;
  margin-top: 10px;
}
</style>

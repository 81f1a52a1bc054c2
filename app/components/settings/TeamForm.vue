<script setup lang="ts">
import { ref } from 'vue'
import type { z } from 'zod'
import { editTeam, getTeam } from '#shared/api/settings/settings'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'
import { useDayHours, WEEKDAYS } from '~/composables/dayHours'

/** The company: its name and address, when calls are made, and what holds for everyone on the team. */
const session = useSession()
const notices = useNotices()
const { formError, send } = useSending()
const team = ref<z.output<typeof getTeam.response>>(await call(getTeam))
const saveTeam = () =>
  send(async () => {
    team.value = await call(editTeam, { body: team.value })
    notices.say('Saved.')
  })
const dayHours = useDayHours()
</script>

<template>
  <section>
    <h2>Company</h2>
    <p v-if="formError" class="notice clay mb-4" role="alert">
      {{ formError.problems.length ? formError.problems.map((one) => one.message).join('. ') : formError.message }}
    </p>
    <form class="grid" @submit.prevent="saveTeam">
      <v-text-field v-model="team.name" label="Name, as recipients read it" :readonly="!session.manages" /><v-text-field
        v-model="team.postalAddress"
        label="Postal address, at the foot of cold email"
        :readonly="!session.manages"
      />
      <ZoneField v-model="team.timeZone" label="Time zone" :readonly="!session.manages" /><CountryField
        v-model="team.country"
        label="Country"
        :readonly="!session.manages"
      />
      <v-select v-model="team.callFrom" :items="dayHours" label="Call from" :readonly="!session.manages" /><v-select
        v-model="team.callTo"
        :items="dayHours"
        label="Call until"
        :readonly="!session.manages"
      />
      <v-text-field
        v-model.number="team.fallbackDays"
        type="number"
        min="1"
        max="730"
        label="Default follow-up (days)"
        :readonly="!session.manages"
      /><v-text-field
        v-model.number="team.attemptsAllowed"
        type="number"
        min="1"
        max="99"
        label="Attempts before “Unreached”"
        :readonly="!session.manages"
      />
      <v-text-field
        v-model.number="team.retryDays"
        type="number"
        min="1"
        max="60"
        label="Try again after no answer (business days)"
        :readonly="!session.manages"
      />
      <v-text-field
        :model-value="team.mostOverdue"
        type="number"
        min="1"
        max="10000"
        label="Assign no one new to a rep with more overdue than (empty: no limit)"
        :readonly="!session.manages"
        @update:model-value="team.mostOverdue = Number($event) || null"
      />
      <v-text-field
        v-model="team.currency"
        label="Currency, three letters"
        maxlength="3"
        :readonly="!session.manages"
      />
      <CheckBox
        v-model="team.countsUncalled"
        label="Count attempts logged without a call from Uphill"
        :readonly="!session.manages"
      />
      <CheckBox
        v-model="team.countClicks"
        label="Count clicks on links in emails (links go through Uphill)"
        :readonly="!session.manages"
      />
      <CheckBox v-model="team.attemptNotes" label="Require a note with every attempt" :readonly="!session.manages" />
      <v-combobox
        v-model="team.callQualities"
        multiple
        chips
        :closable-chips="session.manages"
        label="How a call went: up to five words to choose from"
        hint="Press Enter after each. Leave empty to turn this off"
        persistent-hint
        :readonly="!session.manages"
        :error-messages="formError?.at('callQualities')"
      />
      <div class="row wrap">
        <span class="dim">Calls on</span
        ><label v-for="(day, index) in WEEKDAYS" :key="day" class="day"
          ><input v-model="team.callDays" type="checkbox" :value="index + 1" :disabled="!session.manages" />{{
            day
          }}</label
        >
      </div>
      <v-text-field
        v-model.number="team.idleMinutes"
        type="number"
        min="5"
        max="20160"
        label="Sign out after this many idle minutes"
        :readonly="!session.manages"
      />
      <CheckBox v-model="team.sharesAll" label="Reps see everyone’s prospects" :readonly="!session.manages" />
      <div v-if="session.manages"><v-btn type="submit" color="primary">Save</v-btn></div>
    </form>
    <p class="dim small mt-2">
      Hours are by the prospect’s local time. The legal calling hours there always apply (8:00 AM to 9:00 PM; Australia,
      Britain and Canada have their own).
    </p>
  </section>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px 24px;
  align-items: end;
  margin-top: 10px;
}
.day {
  display: flex;
  gap: 4px;
  align-items: center;
}
.wrap {
  flex-wrap: wrap;
}
@media (max-width: 760px) {
  .grid {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>

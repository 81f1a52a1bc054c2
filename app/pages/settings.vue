<script setup lang="ts">
import { nextTick, onMounted, reactive, ref, watch } from 'vue'
import type { z } from 'zod'
import { ROLES, valuesOf, type Role } from '#core/enumerations'
import { useRoute } from '#imports'
import { inviteUser } from '#shared/api/accounts'
import { addUser, editTeam, getTeam, listUsers } from '#shared/api/settings/settings'
import { ApiError, call } from '~/api/call'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

const session = useSession()
const notices = useNotices()
const route = useRoute()
const team = ref<z.output<typeof getTeam.response> | null>(null)
const users = ref<z.output<typeof listUsers.response>['users']>([])
const person = reactive({ name: '', email: '', role: 'rep' as Role, password: '' })
const tablesReady = ref(false)
const formError = ref<ApiError | null>(null)
const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const HOURS = Array.from({ length: 25 }, (_, hour) => ({
  value: hour * 60,
  title: `${String(hour).padStart(2, '0')}:00`,
}))

async function read(): Promise<void> {
  const [one, two] = await Promise.all([call(getTeam), call(listUsers)])
  team.value = one
  users.value = two.users
}
onMounted(() => read().catch(notices.error))
/** The part of the page that the address names is there only once everything above it is. */
watch([tablesReady, team], async ([ready, now]) => {
  if (!ready || !now || !route.hash) return
  await nextTick()
  document.querySelector(route.hash)?.scrollIntoView({ block: 'start' })
})
async function act(work: () => Promise<unknown>, label: string): Promise<void> {
  formError.value = null
  try {
    await work()
    notices.say(label)
    await read()
  } catch (error) {
    if (error instanceof ApiError && error.problems.length) formError.value = error
    else notices.error(error)
  }
}
const saveTeam = () =>
  act(async () => {
    team.value = await call(editTeam, { body: team.value! })
  }, 'Saved.')
const addPerson = () =>
  act(
    async () => {
      const { password, ...who } = person
      // Without a password they get an email, and set their own.
      if (password) await call(addUser, { body: { ...who, password, zone: team.value!.zone } })
      else await call(inviteUser, { body: { id: crypto.randomUUID(), ...who, zone: team.value!.zone } })
      Object.assign(person, { name: '', email: '', password: '' })
    },
    person.password ? 'Added to the team.' : 'Invited. The email is on its way; the link in it works for a week.',
  )
</script>

<template>
  <div class="page">
    <h1 class="mb-4">Settings</h1>
    <p v-if="formError" class="notice clay mb-4" role="alert">
      {{ formError.problems.map((problem) => problem.message).join('. ') }}
    </p>
    <p v-if="!tablesReady || !team" class="dim" role="status">Loading …</p>
    <div v-show="tablesReady && team">
      <Suspense @resolve="tablesReady = true">
        <div>
          <OutcomeTable />
          <StageTable />
          <DealStageTable />
          <FieldTable />
          <TagTable />
          <ScoreRules />
          <SourceTable />
        </div>
      </Suspense>
      <section v-if="team">
        <h2 id="company">Company</h2>
        <form class="grid" @submit.prevent="saveTeam">
          <v-text-field
            v-model="team.name"
            label="Name, as recipients read it"
            :readonly="!session.manages"
          /><v-text-field
            v-model="team.postalAddress"
            label="Postal address, at the foot of cold email"
            :readonly="!session.manages"
          />
          <ZoneField v-model="team.zone" label="Time zone" :readonly="!session.manages" /><CountryField
            v-model="team.country"
            label="Country"
            :readonly="!session.manages"
          />
          <v-select v-model="team.callFrom" :items="HOURS" label="Call from" :readonly="!session.manages" /><v-select
            v-model="team.callTo"
            :items="HOURS"
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
            v-model="team.currency"
            label="Currency, three letters"
            maxlength="3"
            :readonly="!session.manages"
          />
          <v-checkbox
            v-model="team.countsUncalled"
            label="Count an attempt even if no call was made from here"
            :readonly="!session.manages"
          />
          <div class="row wrap">
            <span class="dim">Calls on</span
            ><label v-for="(day, index) in DAYS" :key="day" class="day"
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
          <v-checkbox v-model="team.sharesAll" label="Reps see everyone’s prospects" :readonly="!session.manages" />
          <div v-if="session.manages"><v-btn type="submit" color="primary">Save</v-btn></div>
        </form>
        <p class="dim small mt-2">
          Hours are by the prospect’s local time. The legal calling hours there always apply (8:00 to 21:00; Australia,
          Britain and Canada have their own).
        </p>
      </section>
      <section>
        <h2 id="users">Users</h2>
        <p class="dim mb-2">Users with the same team name are a team. A list can be shared with one team.</p>
        <UserTable :users="users" @changed="read().catch(notices.error)" />
        <datalist id="teams">
          <option v-for="name in new Set(users.flatMap((user) => user.team ?? []))" :key="name" :value="name" />
        </datalist>
        <form v-if="session.manages" class="row mt-3 wrap" @submit.prevent="addPerson">
          <v-text-field v-model="person.name" label="Name" :error-messages="formError?.at('name')" /><v-text-field
            v-model="person.email"
            label="Email"
            :error-messages="formError?.at('email')"
          />
          <v-select v-model="person.role" :items="valuesOf(ROLES)" label="Role" /><v-text-field
            v-model="person.password"
            label="Temporary password (optional)"
            hint="Empty: they get an email and set their own"
            persistent-hint
            type="password"
            autocomplete="new-password"
            :error-messages="formError?.at('password')"
          /><v-btn type="submit" variant="outlined">{{ person.password ? 'Add' : 'Invite' }}</v-btn>
        </form>
      </section>
      <section>
        <h2>Your account</h2>
        <p class="dim">
          Password, second factor, sessions and API keys are under
          <NuxtLink class="link" to="/account">your account</NuxtLink>.
        </p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.page {
  max-width: 1040px;
}
section {
  margin-bottom: 34px;
}
h2[id] {
  scroll-margin-top: 60px;
}
.grid {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px 16px;
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
.wrap > .v-input {
  min-width: 150px;
}
@media (max-width: 760px) {
  .grid {
    grid-template-columns: minmax(0, 1fr);
  }
  .page :deep(section) {
    overflow-x: auto;
  }
}
</style>

<script setup lang="ts">
import { onMounted, reactive, ref } from 'vue'
import type { z } from 'zod'
import { addUser, editTeam, getTeam, listUsers } from '#shared/api/settings'
import { ApiError, call } from '~/composables/api'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

const session = useSession()
const notices = useNotices()
const team = ref<z.output<typeof getTeam.response> | null>(null)
const users = ref<z.output<typeof listUsers.response>['users']>([])
const person = reactive({ name: '', email: '', role: 'rep' as 'rep' | 'manager' | 'admin', password: '' })
const wrong = ref<ApiError | null>(null)
const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const HOURS = Array.from({ length: 25 }, (_, hour) => ({ value: hour * 60, title: `${String(hour).padStart(2, '0')}:00` }))

async function read(): Promise<void> {
  const [one, two] = await Promise.all([call(getTeam), call(listUsers)])
  team.value = one
  users.value = two.users
}
onMounted(() => read().catch(notices.wrong))
async function act(work: () => Promise<unknown>, says: string): Promise<void> {
  wrong.value = null
  try {
    await work()
    notices.say(says)
    await read()
  }
  catch (error) {
    if (error instanceof ApiError && error.problems.length) wrong.value = error
    else notices.wrong(error)
  }
}
const saveTeam = () => act(async () => { team.value = await call(editTeam, { body: team.value! }) }, 'Saved. It holds from now on.')
const addPerson = () => act(async () => {
  await call(addUser, { body: { ...person, zone: team.value!.zone } })
  Object.assign(person, { name: '', email: '', password: '' })
}, 'Added to the team.')
</script>

<template>
  <div class="page">
    <h1 class="mb-4">Settings</h1>
    <p v-if="wrong" class="notice clay mb-4" role="alert">{{ wrong.problems.map(problem => problem.message).join('. ') }}</p>
    <OutcomeTable />
    <StageTable />
    <FieldTable />
    <TagTable />
    <ScoreRules />
    <SourceTable />
    <section v-if="team">
      <h2>The team</h2>
      <form class="grid" @submit.prevent="saveTeam">
        <v-text-field v-model="team.name" label="Name, as recipients read it" :readonly="!session.manages" /><v-text-field v-model="team.postalAddress" label="Postal address, at the foot of cold mail" :readonly="!session.manages" />
        <v-text-field v-model="team.zone" label="Time zone" :readonly="!session.manages" /><v-text-field v-model="team.country" label="Country, two letters" maxlength="2" :readonly="!session.manages" />
        <v-select v-model="team.callFrom" :items="HOURS" label="Nobody is rung before" :readonly="!session.manages" /><v-select v-model="team.callTo" :items="HOURS" label="Nobody is rung after" :readonly="!session.manages" />
        <v-text-field v-model.number="team.fallbackDays" type="number" min="1" max="730" label="Days until somebody without a plan comes back" :readonly="!session.manages" /><v-text-field v-model.number="team.attemptsAllowed" type="number" min="1" max="99" label="Attempts before somebody is unreached" :readonly="!session.manages" />
        <div class="row wrap"><span class="dim">Calls on</span><label v-for="(day, index) in DAYS" :key="day" class="day"><input v-model="team.callDays" type="checkbox" :value="index + 1" :disabled="!session.manages">{{ day }}</label></div>
        <v-text-field v-model.number="team.idleMinutes" type="number" min="5" max="20160" label="Sign out after this many idle minutes" :readonly="!session.manages" />
        <v-checkbox v-model="team.sharesAll" label="Reps see everybody’s people" :readonly="!session.manages" />
        <div v-if="session.manages"><v-btn type="submit" color="primary">Save</v-btn></div>
      </form>
      <p class="dim small mt-2">Hours are by the clock where the person is; the hours of the law there hold in any case (8:00 to 21:00, in Australia, Britain and Canada their own).</p>
    </section>
    <section>
      <h2>People</h2>
      <p class="dim mb-2">A team is whoever has the same one written here; lists can be for one team alone.</p>
      <UserTable :users="users" @changed="read().catch(notices.wrong)" />
      <datalist id="teams"><option v-for="name in new Set(users.flatMap(user => user.team ?? []))" :key="name" :value="name" /></datalist>
      <form v-if="session.manages" class="row mt-3 wrap" @submit.prevent="addPerson">
        <v-text-field v-model="person.name" label="Name" :error-messages="wrong?.at('name')" /><v-text-field v-model="person.email" label="Email" :error-messages="wrong?.at('email')" />
        <v-select v-model="person.role" :items="['rep', 'manager', 'admin']" label="Role" /><v-text-field v-model="person.password" label="Temporary password" type="password" autocomplete="new-password" :error-messages="wrong?.at('password')" /><v-btn type="submit" variant="outlined">Add</v-btn>
      </form>
    </section>
    <section><h2>Your account</h2><p class="dim">Password, second factor, sessions and API keys are under <NuxtLink class="link" to="/account">your account</NuxtLink>.</p></section>
  </div>
</template>

<style scoped>
.page { max-width: 1040px; } section { margin-bottom: 34px; } .grid { display: grid; grid-template-columns: 1fr 1fr; gap: 12px 16px; margin-top: 10px; } .day { display: flex; gap: 4px; align-items: center; } .wrap { flex-wrap: wrap; } .wrap > .v-input { min-width: 150px; }
</style>

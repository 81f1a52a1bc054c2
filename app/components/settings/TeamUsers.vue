<script setup lang="ts">
import { reactive, ref } from 'vue'
import { ROLES, valuesOf, type Role } from '#core/enumerations'
import { inviteUser } from '#shared/api/accounts'
import { addUser, listUsers } from '#shared/api/settings/settings'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** Who is on the team; managers invite, change and deactivate. */
const session = useSession()
const notices = useNotices()
const { formError, send } = useSending()
const person = reactive({ name: '', email: '', role: 'rep' as Role, password: '' })
const users = ref((await call(listUsers)).users)
async function read(): Promise<void> {
  users.value = (await call(listUsers)).users
}
const addPerson = () =>
  send(async () => {
    const { password, ...who } = person
    const timeZone = session.user!.timeZone
    // Without a password they get an email, and set their own.
    if (password) await call(addUser, { body: { ...who, password, timeZone } })
    else await call(inviteUser, { body: { id: newId(), ...who, timeZone } })
    notices.say(password ? 'Added to the team.' : 'Invited. The email is on its way; the link in it works for a week.')
    Object.assign(person, { name: '', email: '', password: '' })
    await read()
  })
</script>

<template>
  <section>
    <h2>Users</h2>
    <p v-if="formError && !formError.problems.length" class="notice clay mb-4" role="alert">{{ formError.message }}</p>
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
      <v-select
        v-model="person.role"
        :items="valuesOf(ROLES)"
        label="Role"
        :hint="person.role === 'caller' ? 'Sees only their call blocks and to-dos' : ''"
        persistent-hint
      /><v-text-field
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
</template>

<style scoped>
.wrap {
  flex-wrap: wrap;
}
.wrap > .v-input {
  min-width: 150px;
}
</style>

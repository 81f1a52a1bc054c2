<script setup lang="ts">
import { onMounted, ref } from 'vue'
import type { z } from 'zod'
import { useHead } from '#imports'
import { endSession, getAccount } from '#shared/api/accounts'
import { signOutElsewhere } from '#shared/api/session'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

const session = useSession()
const notices = useNotices()
const times = useTimes()
const account = ref<z.output<typeof getAccount.response> | null>(null)
useHead({ title: 'Your account' })

async function read(): Promise<void> {
  if (!session.user?.mustChangePassword) account.value = await call(getAccount)
}
onMounted(() => read().catch(notices.error))

async function act(work: () => Promise<unknown>, label: string): Promise<void> {
  try {
    await work()
    notices.say(label)
    await read()
  } catch (error) {
    notices.error(error)
  }
}

// The first that fits: browsers call themselves by the names of others too.
const BROWSERS: readonly [RegExp, string][] = [
  [/Edg\//, 'Edge'],
  [/Firefox\//, 'Firefox'],
  [/Chrom(e|ium)\//, 'Chrome'],
  [/Safari\//, 'Safari'],
]
const SYSTEMS: readonly [RegExp, string][] = [
  [/Windows/, 'Windows'],
  [/Mac OS/, 'Mac'],
  [/Android/, 'Android'],
  [/iPhone|iPad/, 'iPhone or iPad'],
  [/Linux/, 'Linux'],
]
/** A browser by its name and system, as far as it says. */
function browserOf(agent: string): string {
  const nameIn = (among: readonly [RegExp, string][]) => among.find(([sign]) => sign.test(agent))?.[1]
  const name = nameIn(BROWSERS) ?? 'Another program'
  const system = nameIn(SYSTEMS)
  return system ? `${name} on ${system}` : name
}
</script>

<template>
  <div class="page">
    <h1 class="mb-1">Your account</h1>
    <p class="dim mb-5">{{ session.user?.name }} · {{ session.user?.email }}</p>
    <p v-if="session.user?.mustChangePassword" class="notice amber mb-5" role="status">
      You have a temporary password. Choose your own before you go on.
    </p>
    <ProfileForm v-if="!session.user?.mustChangePassword" />
    <VoicemailMessages v-if="!session.user?.mustChangePassword" />
    <ChangePassword @changed="read().catch(notices.error)" />
    <template v-if="account">
      <SecondFactor :on="account.secondFactor" @changed="read().catch(notices.error)" />
      <section>
        <h2>Sessions</h2>
        <p class="dim mb-2">
          Where you are signed in. A session ends after
          {{
            account.idleMinutes >= 120
              ? `${Math.round(account.idleMinutes / 60)} hours`
              : `${account.idleMinutes} minutes`
          }}
          without use.
        </p>
        <table class="sheet">
          <thead>
            <tr>
              <th>Browser</th>
              <th>Address</th>
              <th>Last used</th>
              <th>Since</th>
              <th><span class="sr">Actions</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in account.sessions" :key="one.id">
              <td>{{ browserOf(one.agent) }}<span v-if="one.current" class="chip pine ml-2">this one</span></td>
              <td class="dim">{{ one.address }}</td>
              <td class="num dim">{{ times.moment(one.lastSeenAt) }}</td>
              <td class="num dim">{{ times.day(one.startedAt) }}</td>
              <td class="acts">
                <button
                  v-if="!one.current"
                  class="link small"
                  @click="act(() => call(endSession, { params: { id: one.id } }), 'Signed out there.')"
                >
                  Sign out
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <v-btn
          v-if="account.sessions.length > 1"
          class="mt-3"
          variant="outlined"
          @click="act(() => call(signOutElsewhere), 'Signed out everywhere else.')"
          >Sign out everywhere else</v-btn
        >
      </section>
      <ApiKeys v-if="!session.onlyCalls" />
    </template>
  </div>
</template>

<style scoped>
.page {
  max-width: 860px;
}
.page :deep(section) {
  margin-bottom: 34px;
}
.acts {
  text-align: right;
}
</style>

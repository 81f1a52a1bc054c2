<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import type { z } from 'zod'
import { ROLES, valuesOf } from '#core/enumerations'
import { deactivateUser, getUserWork, makeResetLink } from '#shared/api/accounts'
import { editUser, type listUsers } from '#shared/api/settings/settings'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** Who is on the team: role and team, a link for a new password, and leaving, which hands over what someone has. */
type User = z.output<typeof listUsers.response>['users'][number]
type Work = z.output<typeof getUserWork.response>

const props = defineProps<{ users: readonly User[] }>()
const emit = defineEmits<{ changed: [] }>()
const session = useSession()
const notices = useNotices()
const leaving = reactive({
  user: null as User | null,
  work: null as Work | null,
  to: null as string | null,
  busy: false,
})
const link = reactive({ user: '', url: '' })
const copied = ref(false)

const mayChange = (user: User) => session.manages && (user.role !== 'admin' || session.user?.role === 'admin')
const roles = computed(() => valuesOf(ROLES).filter((role) => role !== 'admin' || session.user?.role === 'admin'))
const heirs = computed(() =>
  props.users
    .filter((user) => user.active && user.id !== leaving.user?.id)
    .map((user) => ({ value: user.id, title: user.name })),
)
const hasWork = computed(() =>
  Boolean(leaving.work && (leaving.work.people || leaving.work.openTasks || leaving.work.queuedEmails)),
)
const several = (count: number, one: string, many: string) => `${count.toLocaleString()} ${count === 1 ? one : many}`
const summary = computed(() => {
  const { work } = leaving
  if (!work) return ''
  const parts = [
    several(work.people, 'person', 'people'),
    several(work.openTasks, 'open task', 'open tasks'),
    several(work.queuedEmails, 'email that waits', 'emails that wait'),
  ]
  return `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`
})

async function change(user: User, body: z.input<typeof editUser.body>, label: string): Promise<void> {
  try {
    await call(editUser, { params: { id: user.id }, body })
    notices.say(label)
  } catch (error) {
    notices.error(error)
  }
  emit('changed')
}
async function askLink(user: User): Promise<void> {
  try {
    const { url } = await call(makeResetLink, { params: { id: user.id } })
    Object.assign(link, { user: user.name, url })
    copied.value = false
  } catch (error) {
    notices.error(error)
  }
}
async function copy(): Promise<void> {
  await navigator.clipboard.writeText(link.url).then(
    () => {
      copied.value = true
    },
    () => {},
  )
}
async function askLeave(user: User): Promise<void> {
  Object.assign(leaving, { user, work: null, to: null })
  try {
    leaving.work = await call(getUserWork, { params: { id: user.id } })
  } catch (error) {
    notices.error(error)
    leaving.user = null
  }
}
async function leave(): Promise<void> {
  const { user } = leaving
  if (!user) return
  leaving.busy = true
  try {
    const { handedOver } = await call(deactivateUser, {
      params: { id: user.id },
      body: { id: newId(), handOverTo: leaving.to },
    })
    notices.say(
      handedOver
        ? `${user.name} is deactivated. ${several(handedOver, 'person is', 'people are')} being handed over.`
        : `${user.name} is deactivated.`,
    )
    leaving.user = null
    emit('changed')
  } catch (error) {
    notices.error(error)
  }
  leaving.busy = false
}
</script>

<template>
  <table class="sheet">
    <thead>
      <tr>
        <th>Name</th>
        <th>Email</th>
        <th>Role</th>
        <th>Team</th>
        <th><span class="sr">Actions</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="user in users" :key="user.id">
        <td>{{ user.name }}<span v-if="!user.active" class="chip clay ml-2">deactivated</span></td>
        <td class="dim">{{ user.email }}</td>
        <td>
          <select
            v-if="mayChange(user) && user.active && user.id !== session.user?.id"
            class="plainfield"
            :value="user.role"
            :aria-label="`Role of ${user.name}`"
            @change="change(user, { role: ($event.target as HTMLSelectElement).value as User['role'] }, 'Saved.')"
          >
            <option v-for="role in roles" :key="role">{{ role }}</option>
          </select>
          <span v-else>{{ user.role }}</span>
        </td>
        <td>
          <input
            v-if="session.manages"
            class="plainfield team"
            :value="user.team ?? ''"
            maxlength="60"
            list="teams"
            :aria-label="`Team of ${user.name}`"
            placeholder="none"
            @change="change(user, { team: ($event.target as HTMLInputElement).value.trim() || null }, 'Saved.')"
          />
          <span v-else>{{ user.team }}</span>
        </td>
        <td class="acts">
          <template v-if="mayChange(user) && user.id !== session.user?.id">
            <button v-if="user.active" class="link small mr-3" @click="askLink(user)">Reset password</button>
            <button v-if="user.active" class="link small" @click="askLeave(user)">Deactivate</button>
            <button v-else class="link small" @click="change(user, { active: true }, 'They can sign in again.')">
              Activate
            </button>
          </template>
        </td>
      </tr>
    </tbody>
  </table>

  <v-dialog
    :model-value="Boolean(link.url)"
    max-width="560"
    aria-label="Reset link"
    @update:model-value="link.url = ''"
  >
    <v-card class="pa-5">
      <h2 class="mb-2">A link for {{ link.user }}</h2>
      <p class="mb-3">
        With this link {{ link.user }} sets a new password. It works once, for 24 hours. Send it only to them.
      </p>
      <p class="url mb-4">{{ link.url }}</p>
      <div class="row">
        <v-btn color="primary" @click="copy">{{ copied ? 'Copied' : 'Copy link' }}</v-btn><v-btn
          variant="text"
          @click="link.url = ''"
          >Done</v-btn
        >
      </div>
    </v-card>
  </v-dialog>

  <v-dialog
    :model-value="Boolean(leaving.user)"
    max-width="560"
    aria-label="Deactivate"
    @update:model-value="leaving.user = null"
  >
    <v-card v-if="leaving.user" class="pa-5">
      <h2 class="mb-2">Deactivate {{ leaving.user.name }}?</h2>
      <p v-if="!leaving.work" class="dim">Loading …</p>
      <template v-else>
        <p v-if="hasWork" class="mb-3">{{ leaving.user.name }} has {{ summary }}. Who takes over?</p>
        <p v-else class="mb-3">{{ leaving.user.name }} has no people and no open work.</p>
        <v-select v-if="hasWork" v-model="leaving.to" :items="heirs" label="Hand over to" class="mb-3" />
        <p class="dim small mb-4">
          They are signed out everywhere at once<template v-if="leaving.work.keys"
            >, and {{ several(leaving.work.keys, 'API key ends', 'API keys end') }}</template
          >. Their activity is kept.
        </p>
        <FormFooter
          action="Deactivate"
          danger
          :disabled="hasWork && !leaving.to"
          :busy="leaving.busy"
          @act="leave"
          @cancel="leaving.user = null"
        />
      </template>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.acts {
  text-align: right;
  white-space: nowrap;
}
.plainfield {
  font: inherit;
  border: 1px solid var(--line);
  border-radius: 5px;
  padding: 2px 6px;
  background: #fff;
}
.team {
  width: 130px;
}
.url {
  font-family: ui-monospace, monospace;
  font-size: 13px;
  overflow-wrap: anywhere;
  user-select: all;
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 8px 10px;
}
</style>

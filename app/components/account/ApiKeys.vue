<script setup lang="ts">
import { onMounted, reactive, ref } from 'vue'
import type { z } from 'zod'
import { KEY_RIGHTS, choicesOf, type KeyRights } from '#core/enumerations'
import { addKey, listKeys, revokeKey } from '#shared/api/accounts'
import { call, messageOf } from '~/api/call'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

const notices = useNotices()
const session = useSession()
const keys = ref<z.output<typeof listKeys.response>['keys']>([])
const form = reactive({ name: '', rights: 'read' as KeyRights, days: 365 })
const fresh = ref('')
const formError = ref('')
const rights = choicesOf(KEY_RIGHTS).filter(({ value }) => value !== 'manage' || session.manages)
const DAYS = [
  { value: 30, title: '30 days' },
  { value: 90, title: '90 days' },
  { value: 365, title: 'One year' },
  { value: 730, title: 'Two years' },
]
const day = (at: number) => new Date(at).toLocaleDateString()
const status = (key: (typeof keys.value)[number]) => {
  if (key.revoked) return 'revoked'
  return key.expiresAt < Date.now() ? 'expired' : ''
}

async function read(): Promise<void> {
  keys.value = (await call(listKeys)).keys
}
onMounted(() => read().catch(notices.error))
async function create(): Promise<void> {
  formError.value = ''
  try {
    fresh.value = (await call(addKey, { body: { ...form } })).key
    form.name = ''
    await read()
  } catch (error) {
    formError.value = messageOf(error, 'That did not work. Try again')
  }
}
async function revoke(id: string): Promise<void> {
  try {
    await call(revokeKey, { params: { id } })
    notices.say('The key is revoked.')
    await read()
  } catch (error) {
    notices.error(error)
  }
}
</script>

<template>
  <section>
    <h2>API keys</h2>
    <p class="dim mb-2">
      For programs: <code>Authorization: Bearer …</code>. See the
      <a class="link" href="/api/openapi.json">API description</a>.
    </p>
    <p v-if="fresh" class="notice pine mb-3" role="status">
      Your new key. Copy it now; it is shown only once: <code class="key">{{ fresh }}</code>
    </p>
    <table v-if="keys.length" class="sheet mb-3">
      <thead>
        <tr>
          <th>Name</th>
          <th>Key</th>
          <th>Rights</th>
          <th>Last used</th>
          <th>Expires</th>
          <th><span class="sr">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="key in keys" :key="key.id">
          <td>{{ key.name }}</td>
          <td class="dim">ends in {{ key.hint }}</td>
          <td>{{ KEY_RIGHTS[key.rights] }}</td>
          <td class="num dim">{{ key.lastUsedAt ? day(key.lastUsedAt) : 'never' }}</td>
          <td class="num dim">{{ day(key.expiresAt) }}</td>
          <td class="acts">
            <span v-if="status(key)" class="dim">{{ status(key) }}</span><button
              v-else
              class="link small"
              @click="revoke(key.id)"
            >
              Revoke
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <form class="row wrap" @submit.prevent="create">
      <v-text-field v-model="form.name" label="Key name" style="max-width: 260px" :error-messages="formError" />
      <v-select v-model="form.rights" :items="rights" label="Rights" style="max-width: 210px" />
      <v-select v-model="form.days" :items="DAYS" label="Expires after" style="max-width: 150px" />
      <v-btn type="submit" variant="outlined" :disabled="!form.name.trim()">Create API key</v-btn>
    </form>
  </section>
</template>

<style scoped>
.acts {
  text-align: right;
}
.wrap {
  flex-wrap: wrap;
}
.key {
  font-family: ui-monospace, monospace;
  user-select: all;
  overflow-wrap: anywhere;
}
</style>

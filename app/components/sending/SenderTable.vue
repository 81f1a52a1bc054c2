<script setup lang="ts">
import { reactive, ref, shallowRef } from 'vue'
import { editSender, listSenders, type EmailSender } from '#shared/api/email/sending'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** How email of each user is sent, and what they have used of it today. */
const session = useSession()
const notices = useNotices()
const { formError, busy, send } = useSending()
const senders = shallowRef<readonly EmailSender[]>([])
const editing = ref<EmailSender | null>(null)
const draft = reactive({
  cap: 0,
  spacing: 0,
  jitter: 0,
  domainCap: '' as number | '',
  slow: false,
  first: 20,
  more: 10,
})
async function read(): Promise<void> {
  senders.value = (await call(listSenders)).senders
}
function edit(sender: EmailSender): void {
  const { cap, spacing, jitter, domainCap, ramp } = sender
  Object.assign(draft, { cap, spacing, jitter, domainCap: domainCap ?? '', slow: ramp !== null })
  Object.assign(draft, ramp ?? { first: 20, more: 10 })
  formError.value = null
  editing.value = sender
}
async function save(): Promise<void> {
  const { cap, spacing, jitter, domainCap, slow, first, more } = draft
  const body = {
    cap,
    spacing,
    jitter,
    domainCap: domainCap === '' ? null : domainCap,
    ramp: slow ? { first, more } : null,
  }
  if (!(await send(() => call(editSender, { params: { id: editing.value!.id }, body })))) return
  editing.value = null
  notices.say('Saved.')
  await read().catch(notices.error)
}
const count = (value: number) => value.toLocaleString()
const pause = ({ spacing, jitter }: EmailSender): string => {
  if (!spacing) return 'none'
  return jitter ? `${spacing}–${Math.round(spacing * (1 + jitter / 100))} s` : `${spacing} s`
}
const slowStart = ({ ramp, daysSent, cap }: EmailSender): string => {
  if (!ramp) return 'off'
  return ramp.first + ramp.more * daysSent >= cap ? 'done' : `day ${daysSent + 1}, ${ramp.more} more each day`
}
await read().catch(notices.error)
</script>

<template>
  <section>
    <h2>Senders</h2>
    <p class="dim mb-2">
      Cadence and bulk email is sent within these limits. What does not fit today goes first tomorrow.
      <NuxtLink to="/email-queue">See the email queue</NuxtLink>
    </p>
    <table class="sheet">
      <thead>
        <tr>
          <th>Sender</th>
          <th class="right">Today</th>
          <th class="right">Waiting</th>
          <th class="right">Daily cap</th>
          <th>Slow start</th>
          <th class="right">Per receiving domain</th>
          <th>Pause between emails</th>
          <th><span class="sr">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="sender in senders" :key="sender.id">
          <td>
            {{ sender.name }}<br /><span class="dim small"
              >{{ sender.email }}{{ sender.signature ? '' : ', no signature' }}</span
            >
          </td>
          <td class="num right">{{ count(sender.sentToday) }} of {{ count(sender.capToday) }}</td>
          <td class="num right">
            <NuxtLink v-if="sender.waiting" :to="{ path: '/email-queue', query: { sender: sender.id } }">{{
              count(sender.waiting)
            }}</NuxtLink><template v-else>0</template>
          </td>
          <td class="num right">{{ count(sender.cap) }}</td>
          <td>{{ slowStart(sender) }}</td>
          <td class="num right">{{ sender.domainCap === null ? 'no limit' : count(sender.domainCap) }}</td>
          <td class="num">{{ pause(sender) }}</td>
          <td class="acts">
            <button v-if="session.manages" class="link small" :aria-label="`Edit ${sender.name}`" @click="edit(sender)">
              Edit
            </button>
          </td>
        </tr>
      </tbody>
    </table>

    <v-dialog :model-value="editing !== null" max-width="560" aria-label="Sender" @update:model-value="editing = null">
      <v-card v-if="editing" class="pa-5">
        <form class="form" novalidate @submit.prevent="save">
          <h2>How {{ editing.name }}’s email is sent</h2>
          <v-text-field
            v-model.number="draft.cap"
            v-focus
            type="number"
            min="0"
            label="Daily email cap"
            :error-messages="formError?.at('cap')"
          />
          <v-text-field
            v-model.number="draft.domainCap"
            type="number"
            min="1"
            label="Daily cap per receiving domain"
            placeholder="no limit"
            persistent-placeholder
            :error-messages="formError?.at('domainCap')"
          />
          <div class="row">
            <v-text-field
              v-model.number="draft.spacing"
              type="number"
              min="0"
              label="Pause between emails, in seconds"
              :error-messages="formError?.at('spacing')"
            /><v-text-field
              v-model.number="draft.jitter"
              type="number"
              min="0"
              max="200"
              label="Random extra pause, up to %"
              :error-messages="formError?.at('jitter')"
            />
          </div>
          <CheckBox v-model="draft.slow" label="Slow start, for a new sender" />
          <div v-if="draft.slow" class="row">
            <v-text-field
              v-model.number="draft.first"
              type="number"
              min="1"
              label="Emails on the first day"
              :error-messages="formError?.at('ramp.first')"
            /><v-text-field
              v-model.number="draft.more"
              type="number"
              min="1"
              label="More on each day after"
              :error-messages="formError?.at('ramp.more')"
            />
          </div>
          <p class="dim small">
            A slow start raises the limit with each day on which email is sent, up to the daily cap. Mail providers
            distrust new senders that send a lot at once.
          </p>
          <FormFooter action="Save" :busy="busy" @cancel="editing = null" />
        </form>
      </v-card>
    </v-dialog>
  </section>
</template>

<style scoped>
.right {
  text-align: right;
}
.acts {
  text-align: right;
  white-space: nowrap;
}
.form {
  display: grid;
  gap: 12px;
}
</style>

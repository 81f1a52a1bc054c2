<script setup lang="ts">
import { ref } from 'vue'
import { PHONE_KINDS, PHONE_STATUSES, type PhoneKind } from '#core/enumerations'
import {
  editEmail,
  editPhone,
  editProspect,
  removeEmail,
  removePhone,
  stopProspect,
  type Prospect,
} from '#shared/api/prospects'
import { newId } from '#shared/newId'
import { call, messageOf } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/**
 * How someone can be reached: numbers and addresses, added, corrected, put first and removed where they stand; place
 * and clock.
 */
const props = defineProps<{ person: Prospect }>()
const emit = defineEmits<{ changed: [] }>()
const times = useTimes()
const notices = useNotices()
type Phone = Prospect['phones'][number]
const open = ref<string | null>(null)
const tag = ref('')
const formError = ref('')

/** What is being corrected or added, as it is typed. */
const typed = ref('')
function openUp(id: string, value: string): void {
  open.value = open.value === id ? null : id
  typed.value = value
  tag.value = ''
  formError.value = ''
}
/** Does something to a number or an address; where it is refused, what was typed stays. */
async function edit(work: () => Promise<unknown>, close = true): Promise<void> {
  formError.value = ''
  try {
    const done = (await work()) as { removed?: boolean } | null
    if (done?.removed === false) notices.say('It is in the history, so it stays there, marked as not working.')
    if (close) open.value = null
    emit('changed')
  } catch (error) {
    formError.value = messageOf(error, 'This could not be saved')
  }
}
const params = (phone: Phone) => ({ id: props.person.id, phone: phone.id })
const emailParams = (email: Prospect['emails'][number]) => ({ id: props.person.id, email: email.id })
const add = (what: 'addPhone' | 'addEmail') =>
  edit(() =>
    call(editProspect, {
      params: { id: props.person.id },
      body: { version: props.person.version, [what]: typed.value },
    }),
  )
interface PhoneChange {
  kind?: PhoneKind
  status?: Phone['status']
  tags?: string[]
  textConsent?: 'given' | 'declined'
}
async function change(phone: Phone, body: PhoneChange): Promise<void> {
  formError.value = ''
  try {
    await call(editPhone, { params: { id: props.person.id, phone: phone.id }, body })
    if (body.tags) tag.value = ''
    emit('changed')
  } catch (error) {
    formError.value = messageOf(error, 'The number could not be changed')
  }
}
async function stop(channel: 'call' | 'email', on: boolean): Promise<void> {
  try {
    const { summary: label } = await call(stopProspect, {
      params: { id: props.person.id },
      body: { id: newId(), channel, on },
    })
    notices.say(label)
    emit('changed')
  } catch (error) {
    notices.error(error)
  }
}
const said = (phone: Phone) =>
  [
    phone.kind,
    ...(phone.status === 'unverified' ? [] : [PHONE_STATUSES[phone.status]]),
    ...(phone.textConsent === 'unknown' ? [] : [CONSENT[phone.textConsent]]),
  ].join(', ')
const CONSENT = { given: 'texts agreed', declined: 'no texts', stopped: 'said STOP to texts' }
</script>

<template>
  <section class="panel">
    <h3>Contact</h3>
    <div v-for="(phone, index) in person.phones" :key="phone.id" class="phone">
      <p class="spread">
        <a class="num" :href="`tel:${phone.number}`">{{ phone.shown }}</a><button
          class="plain dim small edit"
          :class="{ clay: ['wrong', 'disconnected', 'do_not_call'].includes(phone.status) }"
          :aria-expanded="open === phone.id"
          :aria-label="`Edit ${phone.shown}`"
          @click="openUp(phone.id, phone.shown)"
        >
          {{ said(phone) }}
        </button>
      </p>
      <p v-if="phone.tags.length && open !== phone.id" class="small">
        <span v-for="one in phone.tags" :key="one" class="chip">{{ one }}</span>
      </p>
      <div v-if="open === phone.id" class="small fix">
        <form
          class="row"
          @submit.prevent="edit(() => call(editPhone, { params: params(phone), body: { number: typed } }))"
        >
          <input v-model="typed" inputmode="tel" maxlength="60" aria-label="Number" /><button
            class="link"
            :disabled="typed === phone.shown"
          >
            Save
          </button>
        </form>
        <select
          :value="phone.kind"
          aria-label="Type"
          @change="change(phone, { kind: ($event.target as HTMLSelectElement).value as PhoneKind })"
        >
          <option v-for="(label, kind) in PHONE_KINDS" :key="kind" :value="kind">{{ label }}</option>
        </select>
        <select
          :value="phone.status"
          aria-label="Status"
          @change="change(phone, { status: ($event.target as HTMLSelectElement).value as Phone['status'] })"
        >
          <option v-for="(label, status) in PHONE_STATUSES" :key="status" :value="status">{{ label }}</option>
        </select>
        <span v-if="phone.textConsent !== 'stopped'" class="row">
          <button v-if="phone.textConsent !== 'given'" class="link" @click="change(phone, { textConsent: 'given' })">
            They agreed to texts</button
          ><button
            v-if="phone.textConsent !== 'declined'"
            class="link"
            @click="change(phone, { textConsent: 'declined' })"
          >
            No texts to this number
          </button>
        </span>
        <span v-else class="dim">They said STOP; START from this number allows texts again.</span>
        <span v-for="one in phone.tags" :key="one" class="chip"
          >{{ one }}
          <button
            class="plain"
            :aria-label="`Take off ${one}`"
            @click="change(phone, { tags: phone.tags.filter((other) => other !== one) })"
          >
            ×
          </button></span
        >
        <form @submit.prevent="tag.trim() && change(phone, { tags: [...phone.tags, tag.trim()] })">
          <input v-model="tag" maxlength="40" aria-label="Tag of the number" placeholder="direct line, Enter" />
        </form>
        <button
          v-if="index > 0"
          class="link"
          @click="edit(() => call(editPhone, { params: params(phone), body: { first: true } }))"
        >
          Make first
        </button>
        <button class="link" @click="edit(() => call(removePhone, { params: params(phone) }))">Remove</button>
      </div>
    </div>
    <div v-for="(email, index) in person.emails" :key="email.id">
      <p class="spread">
        <span class="address">{{ email.address }}</span><button
          class="plain dim small edit"
          :class="{ clay: email.status === 'bounced' }"
          :aria-expanded="open === email.id"
          :aria-label="`Edit ${email.address}`"
          @click="openUp(email.id, email.address)"
        >
          {{ email.status === 'bounced' ? 'does not work' : 'email' }}
        </button>
      </p>
      <div v-if="open === email.id" class="small fix">
        <form
          class="row"
          @submit.prevent="edit(() => call(editEmail, { params: emailParams(email), body: { address: typed } }))"
        >
          <input v-model="typed" inputmode="email" maxlength="254" aria-label="Email address" class="long" /><button
            class="link"
            :disabled="typed === email.address"
          >
            Save
          </button>
        </form>
        <button
          class="link"
          @click="
            edit(() =>
              call(editEmail, {
                params: emailParams(email),
                body: { status: email.status === 'ok' ? 'bounced' : 'ok' },
              }),
            )
          "
        >
          {{ email.status === 'ok' ? 'Does not work' : 'It works' }}
        </button>
        <button
          v-if="index > 0"
          class="link"
          @click="edit(() => call(editEmail, { params: emailParams(email), body: { first: true } }))"
        >
          Make first
        </button>
        <button class="link" @click="edit(() => call(removeEmail, { params: emailParams(email) }))">Remove</button>
      </div>
    </div>
    <p v-if="!person.phones.length && !person.emails.length" class="dim">No phone number and no email yet.</p>
    <form v-if="open === 'addPhone' || open === 'addEmail'" class="small fix" @submit.prevent="add(open)">
      <input
        v-model="typed"
        maxlength="254"
        class="long"
        :inputmode="open === 'addPhone' ? 'tel' : 'email'"
        :aria-label="open === 'addPhone' ? 'New phone number' : 'New email address'"
        @vue:mounted="$event.el?.focus()"
      /><button class="link">Add</button>
    </form>
    <p v-if="formError" class="small clay" role="alert">{{ formError }}</p>
    <p class="row">
      <button class="link small" @click="openUp('addPhone', '')">Add phone</button
      ><button class="link small" @click="openUp('addEmail', '')">Add email</button>
    </p>
    <p class="dim small mt-2">
      {{ [person.city, person.region, person.country].filter(Boolean).join(', ') || 'Place unknown' }} ·
      {{ times.zoneName(person.timeZone) }} time<template v-if="person.timeZoneIsManual">, set by hand</template
      ><template v-else-if="person.timeZoneFrom === 'number'">, by the area code</template>
    </p>
    <p v-if="person.callingZones > 1" class="small guess">
      The time zone is a guess: {{ person.callingZones }} are possible. Calls wait until the hour is right in all of
      them. Fill in the {{ person.region ? 'time zone' : 'state or region' }} to be sure.
    </p>
    <div class="row mt-2">
      <button class="link small" @click="stop('call', !person.stopCall)">
        {{ person.stopCall ? 'Allow calls' : 'Do not call' }}
      </button>
      <button class="link small" @click="stop('email', !person.stopEmail)">
        {{ person.stopEmail ? 'Allow email' : 'Do not email' }}
      </button>
    </div>
  </section>
</template>

<style scoped>
p {
  padding: 2px 0;
}
.address {
  overflow-wrap: anywhere;
}
p a,
.link,
.edit {
  display: inline-block;
  min-height: 24px;
  line-height: 24px;
}
.edit {
  border-bottom: 1px dotted var(--stone);
  min-height: 20px;
  line-height: 20px;
}
.clay {
  color: var(--clay-deep);
}
.guess {
  color: var(--amber-deep);
}
.chip {
  margin-right: 4px;
}
.fix {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  padding: 4px 0 8px;
}
.fix input {
  width: 130px;
}
.fix .long {
  width: 190px;
}
</style>

<script setup lang="ts">
import { ref } from 'vue'
import { editPhone, stopProspect, type Prospect } from '#shared/api/prospects'
import { ApiError, call } from '~/composables/api'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** How somebody can be reached: numbers with type, standing and tags, corrected where they stand; addresses; place and clock. */
const props = defineProps<{ person: Prospect }>()
const emit = defineEmits<{ changed: [] }>()
const times = useTimes()
const notices = useNotices()
type Phone = Prospect['phones'][number]
const STANDINGS: Record<Phone['standing'], string> = { unverified: 'unverified', correct: 'confirmed', wrong: 'wrong', disconnected: 'disconnected', do_not_call: 'do not call' }
const KINDS = ['work', 'mobile', 'home', 'other'] as const
const open = ref<string | null>(null)
const tag = ref('')
const wrong = ref('')

async function change(phone: Phone, body: { kind?: typeof KINDS[number], standing?: Phone['standing'], tags?: string[] }): Promise<void> {
  wrong.value = ''
  try {
    await call(editPhone, { params: { id: props.person.id, phone: phone.id }, body })
    if (body.tags) tag.value = ''
    emit('changed')
  }
  catch (error) {
    wrong.value = error instanceof ApiError ? error.message : 'The number could not be changed'
  }
}
async function stop(channel: 'call' | 'email', on: boolean): Promise<void> {
  try {
    const { says } = await call(stopProspect, { params: { id: props.person.id }, body: { id: crypto.randomUUID(), channel, on } })
    notices.say(says)
    emit('changed')
  }
  catch (error) {
    notices.wrong(error)
  }
}
const said = (phone: Phone) => [phone.kind, ...(phone.standing === 'unverified' ? [] : [STANDINGS[phone.standing]])].join(', ')
</script>

<template>
  <section class="panel">
    <h3>Reach</h3>
    <div v-for="phone in person.phones" :key="phone.id" class="phone">
      <p class="spread"><a class="num" :href="`tel:${phone.number}`">{{ phone.shown }}</a><button class="plain dim small edit" :class="{ clay: ['wrong', 'disconnected', 'do_not_call'].includes(phone.standing) }" :aria-expanded="open === phone.id" :aria-label="`Correct ${phone.shown}`" @click="open = open === phone.id ? null : phone.id">{{ said(phone) }}</button></p>
      <p v-if="phone.tags.length && open !== phone.id" class="small"><span v-for="one in phone.tags" :key="one" class="chip">{{ one }}</span></p>
      <div v-if="open === phone.id" class="small fix">
        <select :value="phone.kind" aria-label="Type" @change="change(phone, { kind: ($event.target as HTMLSelectElement).value as typeof KINDS[number] })"><option v-for="kind in KINDS" :key="kind">{{ kind }}</option></select>
        <select :value="phone.standing" aria-label="Standing" @change="change(phone, { standing: ($event.target as HTMLSelectElement).value as Phone['standing'] })"><option v-for="(says, standing) in STANDINGS" :key="standing" :value="standing">{{ says }}</option></select>
        <span v-for="one in phone.tags" :key="one" class="chip">{{ one }} <button class="plain" :aria-label="`Take off ${one}`" @click="change(phone, { tags: phone.tags.filter(other => other !== one) })">×</button></span>
        <form @submit.prevent="tag.trim() && change(phone, { tags: [...phone.tags, tag.trim()] })"><input v-model="tag" maxlength="40" aria-label="Tag of the number" placeholder="direct line, Enter"></form>
      </div>
    </div>
    <p v-if="wrong" class="small clay" role="alert">{{ wrong }}</p>
    <p v-for="email in person.emails" :key="email.id" class="spread"><span class="address">{{ email.address }}</span><span v-if="email.standing === 'bounced'" class="chip clay">does not work</span></p>
    <p v-if="!person.phones.length && !person.emails.length" class="dim">No number and no address yet.</p>
    <p class="dim small mt-2">{{ [person.city, person.region, person.country].filter(Boolean).join(', ') || 'Place unknown' }} · {{ times.zoneName(person.zone) }} time<template v-if="person.zoneByHand">, set by hand</template><template v-else-if="person.zoneFrom === 'number'">, by the area code</template></p>
    <p v-if="person.callingZones > 1" class="small guess">The time zone is a guess: {{ person.callingZones }} are possible. Calls wait until the hour is right in all of them. Fill in the {{ person.region ? 'time zone' : 'state or region' }} to be sure.</p>
    <div class="row mt-2">
      <button class="link small" @click="stop('call', !person.stopCall)">{{ person.stopCall ? 'Allow calls' : 'No calls' }}</button>
      <button class="link small" @click="stop('email', !person.stopEmail)">{{ person.stopEmail ? 'Allow email' : 'No email' }}</button>
    </div>
  </section>
</template>

<style scoped>
p { padding: 2px 0; } .address { overflow-wrap: anywhere; } p a, .link, .edit { display: inline-block; min-height: 24px; line-height: 24px; } .edit { border-bottom: 1px dotted var(--stone); min-height: 20px; line-height: 20px; } .clay { color: var(--clay-deep); } .guess { color: var(--amber-deep); } .chip { margin-right: 4px; }
.fix { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; padding: 4px 0 8px; } .fix select, .fix input { font: inherit; border: 1px solid var(--stone); border-radius: 5px; padding: 2px 6px; background: #fff; } .fix input { width: 130px; }
</style>

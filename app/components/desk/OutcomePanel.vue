<script setup lang="ts">
import { computed, nextTick, reactive, ref, watch } from 'vue'
import type { Brief, OutcomeChoice, OutcomeDetails } from '#shared/api/desk'
import type { ApiError } from '~/composables/api'
import { useTimes } from '~/composables/times'

/** The outcomes, each with what it will do to this person; what one must know is asked in its place. */
const props = defineProps<{ brief: Brief, wrong: ApiError | null }>()
const emit = defineEmits<{ log: [outcome: OutcomeChoice, details: OutcomeDetails] }>()
const times = useTimes()
const chosen = ref<string | null>(null)
const root = ref<HTMLElement | null>(null)
const given = reactive({ date: '', time: '', reason: '', minutes: 30, zone: '', title: '', firstName: '', lastName: '', email: '', phone: '', note: '' })
const lacks = ref('')

const zone = computed(() => props.brief.prospect.zone)
function suggest(days: number): { date: string, time: string } {
  let at = props.brief.now + days * 86_400_000
  const weekday = () => new Date(at).getUTCDay()
  while (weekday() === 0 || weekday() === 6) at += 86_400_000
  const parts = times.toInput(at)
  return { date: `${parts.year}-${parts.month}-${parts.day}`, time: '10:00' }
}
watch(() => props.brief.prospect.id, () => {
  chosen.value = null
  Object.assign(given, { reason: '', minutes: 30, title: '', firstName: '', lastName: '', email: '', phone: '', note: '' })
})

/** Picks an outcome: one that asks nothing is logged at once, another opens in place with typing starting. */
async function pick(outcome: OutcomeChoice): Promise<void> {
  if (outcome.blocked) return
  if (!outcome.asks.length) return emit('log', outcome, {})
  chosen.value = outcome.id
  lacks.value = ''
  Object.assign(given, suggest(outcome.asks.includes('meeting') ? 2 : 1), { zone: zone.value })
  if (!given.title) given.title = `${props.brief.prospect.firstName} and us`
  await nextTick()
  root.value?.querySelector<HTMLElement>('.asks input, .asks select, .asks textarea')?.focus()
}
function confirm(outcome: OutcomeChoice): void {
  const at = times.fromInput(given.date, given.time, outcome.asks.includes('meeting') ? given.zone : undefined)
  const wantsTime = outcome.asks.includes('meeting') || outcome.asks.includes('callBackAt')
  lacks.value = wantsTime && Number.isNaN(at) ? 'Choose a day and a time'
    : wantsTime && at <= props.brief.now ? 'That time has passed'
      : outcome.asks.includes('reason') && !given.reason.trim() ? 'Which reason did they give?'
        : outcome.asks.includes('referral') && !`${given.firstName}${given.lastName}`.trim() ? 'Who is the right person?' : ''
  if (lacks.value) return
  emit('log', outcome, {
    ...(outcome.asks.includes('callBackAt') && { callBackAt: at }),
    ...(outcome.asks.includes('reason') && { reason: given.reason }),
    ...(outcome.asks.includes('note') && { note: given.note }),
    ...(outcome.asks.includes('meeting') && { meeting: { title: given.title || 'Meeting', startAt: at, minutes: Number(given.minutes), zone: given.zone } }),
    ...(outcome.asks.includes('referral') && { referral: { firstName: given.firstName, lastName: given.lastName, ...(given.email && { email: given.email }), ...(given.phone && { phone: given.phone }) } }),
  })
}
const meetingThere = computed(() => {
  const at = times.fromInput(given.date, given.time, given.zone)
  return Number.isNaN(at) ? '' : given.zone === zone.value ? `${times.moment(at)} your time` : `${times.moment(at, zone.value)} where they are`
})
const zones = computed(() => [...new Set([zone.value, ...(Intl.supportedValuesOf('timeZone'))])])
/** What has been typed for an outcome, to be put back if it could not be logged after all. */
function snapshot(): { chosen: string | null, given: Record<string, unknown> } {
  return { chosen: chosen.value, given: { ...given } }
}
function restore(kept: ReturnType<typeof snapshot>): void {
  chosen.value = kept.chosen
  Object.assign(given, kept.given)
}
defineExpose({
  snapshot, restore,
  pickKey: (key: number) => {
    const outcome = props.brief.outcomes.find(one => one.key === key)
    if (outcome) void pick(outcome)
  },
  close: () => { chosen.value = null },
})
</script>

<template>
  <div ref="root" class="outcomes">
    <template v-for="outcome in brief.outcomes" :key="outcome.id">
      <div class="one" :class="{ on: chosen === outcome.id, off: outcome.blocked }">
        <button class="plain head" :aria-expanded="outcome.asks.length ? chosen === outcome.id : undefined" :disabled="Boolean(outcome.blocked)" @click="pick(outcome)">
          <kbd>{{ outcome.key ?? '·' }}</kbd>
          <span><b>{{ outcome.name }}</b><small>{{ outcome.blocked ?? outcome.says }}</small></span>
        </button>
        <form v-if="chosen === outcome.id" class="asks" @submit.prevent="confirm(outcome)" @keydown.esc.stop="chosen = null">
          <div v-if="outcome.asks.includes('callBackAt') || outcome.asks.includes('meeting')" class="pair">
            <label>Day<input v-model="given.date" type="date"></label>
            <label>Time<input v-model="given.time" type="time"></label>
          </div>
          <template v-if="outcome.asks.includes('meeting')">
            <div class="pair">
              <label>Minutes<input v-model.number="given.minutes" type="number" min="5" max="600" step="5"></label>
              <label>Time zone<select v-model="given.zone"><option v-for="name in zones" :key="name" :value="name">{{ times.zoneName(name) }}</option></select></label>
            </div>
            <label>What about<input v-model="given.title" maxlength="200"></label>
            <small class="dim">{{ meetingThere }}</small>
          </template>
          <label v-if="outcome.asks.includes('reason')">Reason<input v-model="given.reason" :list="`reasons-${outcome.id}`" maxlength="500"><datalist :id="`reasons-${outcome.id}`"><option v-for="reason in outcome.reasons" :key="reason" :value="reason" /></datalist></label>
          <div v-if="outcome.asks.includes('reason') && outcome.reasons.length" class="quick"><button v-for="reason in outcome.reasons" :key="reason" type="button" class="plain chip" @click="given.reason = reason; confirm(outcome)">{{ reason }}</button></div>
          <template v-if="outcome.asks.includes('referral')">
            <div class="pair"><label>First name<input v-model="given.firstName"></label><label>Last name<input v-model="given.lastName"></label></div>
            <div class="pair"><label>Phone<input v-model="given.phone" inputmode="tel"></label><label>Email<input v-model="given.email" inputmode="email"></label></div>
          </template>
          <label v-if="outcome.asks.includes('note')">Note<textarea v-model="given.note" rows="2" /></label>
          <p v-if="lacks || wrong" class="lack" role="alert">{{ lacks || wrong?.message }}</p>
          <div class="row"><v-btn type="submit" color="primary" size="small">{{ outcome.name }} <kbd class="ml-2">Enter</kbd></v-btn><v-btn variant="text" size="small" @click="chosen = null">Not this</v-btn></div>
        </form>
      </div>
    </template>
  </div>
</template>

<style scoped>
.outcomes { display: grid; gap: 4px; }
.one { background: var(--card); border: 1px solid var(--line); border-radius: 7px; } .one.on { border-color: var(--pine); box-shadow: 0 0 0 1px var(--pine); } .one.off b { color: var(--dim); font-weight: 500; }
.head { display: grid; grid-template-columns: 24px 1fr; gap: 8px; padding: 4px 9px; width: 100%; align-items: start; } .head:hover:not(:disabled) { background: var(--pine-soft); border-radius: 6px; }
b { font-weight: 600; } .head small { display: block; color: var(--dim); line-height: 1.25; }
.asks { padding: 4px 10px 10px; display: grid; gap: 8px; } .pair { display: grid; grid-template-columns: 1fr 1fr; gap: 8px; }
label { display: grid; font-size: 12.5px; color: var(--dim); min-width: 0; } input, select, textarea { font: inherit; font-size: 14px; color: var(--ink); border: 1px solid var(--stone); border-radius: 6px; padding: 5px 7px; background: #fff; min-width: 0; width: 100%; }
.quick { display: flex; flex-wrap: wrap; gap: 5px; } .quick .chip { padding: 3px 8px; } .quick .chip:hover { background: var(--pine-soft); }
.lack { color: var(--clay-deep); font-size: 12.5px; }
</style>

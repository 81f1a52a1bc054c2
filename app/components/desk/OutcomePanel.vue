<script setup lang="ts">
import { computed, nextTick, reactive, ref, watch } from 'vue'
import type { Brief, OutcomeChoice, OutcomeDetails } from '#shared/api/desk/desk'
import type { ApiError } from '~/api/call'
import { useTimes } from '~/composables/times'
import { zonesInOrder } from '~/composables/zones'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** The outcomes, each with what it will do to this person; what one must know is asked in its place. */
const props = defineProps<{
  brief: Brief
  formError: ApiError | null
  /** What is noted beside the outcomes already, and goes along. */ note?: string
}>()
const emit = defineEmits<{ log: [outcome: OutcomeChoice, details: OutcomeDetails] }>()
const times = useTimes()
const session = useSession()
const notices = useNotices()
const chosen = ref<string | null>(null)
const root = ref<HTMLElement | null>(null)
const given = reactive({
  at: null as number | null,
  reason: '',
  minutes: 30,
  timeZone: '',
  title: '',
  place: '',
  firstName: '',
  lastName: '',
  email: '',
  phone: '',
  note: '',
})
const missingInput = ref('')

const timeZone = computed(() => props.brief.prospect.timeZone)
const when = ref<{ settle(): Promise<number | null> }[]>([])
const hasAddress = computed(() => props.brief.prospect.emails.some((email) => email.status !== 'bounced'))
watch(
  () => props.brief.prospect.id,
  () => {
    chosen.value = null
    Object.assign(given, {
      at: null,
      reason: '',
      minutes: 30,
      title: '',
      place: '',
      firstName: '',
      lastName: '',
      email: '',
      phone: '',
      note: '',
    })
  },
)

/** Many outcomes are drawn on two lines each, more still on one, so that all are in sight. */
const density = computed(() => {
  const { length } = props.brief.outcomes
  if (length > 17) return 'tight tightest'
  return length > 8 ? 'tight' : ''
})
/** Whether something has to be said before it can be logged. */
const opens = (outcome: OutcomeChoice) => outcome.requiredInputs.length + outcome.missing.length > 0
const fills = ref<{ save(): Promise<boolean> }[]>([])
/** Picks an outcome: one that asks nothing is logged at once, another opens in place with typing starting. */
async function pick(outcome: OutcomeChoice): Promise<void> {
  if (outcome.blocked) return
  if (!opens(outcome)) return emit('log', outcome, {})
  chosen.value = outcome.id
  missingInput.value = ''
  Object.assign(given, { at: null, timeZone: timeZone.value })
  const [phone] = props.brief.prospect.phones
  if (!given.place && phone) given.place = `We call ${phone.shown}`
  if (!given.title) given.title = `${props.brief.prospect.firstName} and us`
  await nextTick()
  root.value?.querySelector<HTMLElement>('.asks input, .asks select, .asks textarea')?.focus()
}
/** A voicemail message was left: picks the outcome that says so. */
function pickMessageLeft(): void {
  const outcome = props.brief.outcomes.find((one) => one.leavesMessage && !one.blocked)
  if (outcome) void pick(outcome)
  else notices.say('Your message is playing. No outcome is set to log a voicemail: choose one.')
}
const named = () => `${given.firstName}${given.lastName}`.trim() !== ''
/** What is still missing for an outcome, as a sentence; empty where nothing is. */
function missing(outcome: OutcomeChoice): string {
  if (outcome.requiredInputs.includes('reason') && !given.reason.trim()) return 'Which reason did they give?'
  if (outcome.requiredInputs.includes('note') && !given.note.trim() && !props.note?.trim()) return 'Write a note'
  if (outcome.requiredInputs.includes('referral') && (given.email || given.phone) && !named()) return 'Enter their name'
  return ''
}
const confirming = ref(false)
async function confirm(outcome: OutcomeChoice): Promise<void> {
  if (confirming.value) return
  confirming.value = true
  const wantsTime = outcome.requiredInputs.includes('meeting') || outcome.requiredInputs.includes('callBackAt')
  const at = wantsTime ? ((await when.value[0]?.settle()) ?? null) : 0
  confirming.value = false
  if (at === null || chosen.value !== outcome.id) return
  missingInput.value = missing(outcome)
  if (missingInput.value) return
  confirming.value = true
  const filled = !outcome.missing.length || (await fills.value[0]?.save())
  confirming.value = false
  if (!filled || chosen.value !== outcome.id) return
  emit('log', outcome, {
    ...(outcome.requiredInputs.includes('callBackAt') && { callBackAt: at }),
    ...(outcome.requiredInputs.includes('reason') && { reason: given.reason }),
    ...(outcome.requiredInputs.includes('note') && { note: given.note }),
    ...(outcome.requiredInputs.includes('meeting') && {
      meeting: {
        title: given.title || 'Meeting',
        startAt: at,
        minutes: Number(given.minutes),
        timeZone: given.timeZone,
        ...(given.place.trim() && { place: given.place.trim() }),
        ...(given.email.trim() && { email: given.email }),
      },
    }),
    ...(outcome.requiredInputs.includes('referral') &&
      named() && {
        referral: {
          firstName: given.firstName,
          lastName: given.lastName,
          ...(given.email && { email: given.email }),
          ...(given.phone && { phone: given.phone }),
        },
      }),
  })
}
const zones = computed(() => zonesInOrder([timeZone.value, session.timeZone]))
/** What has been typed for an outcome, to be put back if it could not be logged after all. */
function snapshot(): { chosen: string | null; given: Record<string, unknown> } {
  return { chosen: chosen.value, given: { ...given } }
}
function restore(saved: ReturnType<typeof snapshot>): void {
  chosen.value = saved.chosen
  Object.assign(given, saved.given)
}
defineExpose({
  pickMessageLeft,
  snapshot,
  restore,
  pickKey: (key: string) => {
    const outcome = props.brief.outcomes.find((one) => one.key === key)
    if (outcome) void pick(outcome)
  },
  close: () => {
    chosen.value = null
  },
  /** Whether an outcome's form is open: it has the keyboard to itself. */
  isOpen: () => chosen.value !== null,
})
function giveReason(reason: string, outcome: OutcomeChoice): void {
  given.reason = reason
  void confirm(outcome)
}
</script>

<template>
  <div ref="root" class="outcomes" :class="{ tight: density }">
    <template v-for="outcome in brief.outcomes" :key="outcome.id">
      <div class="one" :class="{ on: chosen === outcome.id }">
        <OutcomeButton
          :outcome="outcome"
          :density="chosen === outcome.id ? '' : density"
          :expanded="opens(outcome) ? chosen === outcome.id : undefined"
          @pick="pick(outcome)"
        />
        <form
          v-if="chosen === outcome.id"
          class="asks"
          @submit.prevent="confirm(outcome)"
          @keydown.esc.stop="chosen = null"
        >
          <p v-if="missingInput || formError" class="lack" role="alert">{{ missingInput || formError?.message }}</p>
          <WhenField
            v-if="outcome.requiredInputs.includes('callBackAt') || outcome.requiredInputs.includes('meeting')"
            ref="when"
            v-model="given.at"
            :kind="outcome.requiredInputs.includes('meeting') ? 'meeting' : 'call'"
            :prospect-id="brief.prospect.id"
            :time-zone="outcome.requiredInputs.includes('meeting') ? given.timeZone : timeZone"
            :label="outcome.requiredInputs.includes('meeting') ? 'Meeting' : 'Call back'"
          />
          <template v-if="outcome.requiredInputs.includes('meeting')">
            <div class="pair">
              <label>Minutes<input v-model.number="given.minutes" type="number" min="5" max="600" step="5" /></label>
              <label
                >Time zone<select v-model="given.timeZone">
                  <optgroup label="Usual">
                    <option v-for="name in zones.usual" :key="name" :value="name">{{ times.zoneName(name) }}</option>
                  </optgroup>
                  <optgroup label="All">
                    <option v-for="name in zones.others" :key="name" :value="name">{{ times.zoneName(name) }}</option>
                  </optgroup>
                </select></label
              >
            </div>
            <label>What about<input v-model="given.title" maxlength="200" /></label>
            <label
              >Where<input
                v-model="given.place"
                maxlength="300"
                placeholder="A link, an address, or who calls which number"
            /></label>
            <label
              >{{ hasAddress ? 'Another email for the invitation (optional)' : 'Email for the invitation'
              }}<input v-model="given.email" inputmode="email" maxlength="254" autocomplete="off"
            /></label>
          </template>
          <label v-if="outcome.requiredInputs.includes('reason')"
            >Reason<input v-model="given.reason" :list="`reasons-${outcome.id}`" maxlength="500" /><datalist
              :id="`reasons-${outcome.id}`"
            >
              <option v-for="reason in outcome.reasons" :key="reason" :value="reason" /></datalist
          ></label>
          <div v-if="outcome.requiredInputs.includes('reason') && outcome.reasons.length" class="quick">
            <button
              v-for="reason in outcome.reasons"
              :key="reason"
              type="button"
              class="plain chip"
              @click="giveReason(reason, outcome)"
            >
              {{ reason }}
            </button>
          </div>
          <template v-if="outcome.requiredInputs.includes('referral')">
            <p class="dim">Who is the right person? Leave empty if unknown.</p>
            <div class="pair">
              <label>First name<input v-model="given.firstName" /></label
              ><label>Last name<input v-model="given.lastName" /></label>
            </div>
            <div class="pair">
              <label>Phone<input v-model="given.phone" inputmode="tel" /></label
              ><label>Email<input v-model="given.email" inputmode="email" /></label>
            </div>
          </template>
          <MissingFields
            v-if="outcome.missing.length"
            ref="fills"
            :person="brief.prospect"
            :missing="outcome.missing"
          />
          <label v-if="outcome.requiredInputs.includes('note') && !note?.trim()"
            >Note<textarea
              v-model="given.note"
              rows="2"
              title="Enter logs it, Shift+Enter starts a new line"
              @keydown.enter.exact.prevent="confirm(outcome)"
            />
          </label>
          <div class="row">
            <v-btn type="submit" color="primary" size="small">{{ outcome.name }} <kbd class="ml-2">Enter</kbd></v-btn
            ><v-btn variant="text" size="small" @click="chosen = null">Cancel</v-btn>
          </div>
        </form>
      </div>
    </template>
  </div>
</template>

<style scoped>
.outcomes {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 4px;
}
.one {
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 7px;
}
.one.on {
  border-color: var(--pine);
  box-shadow: 0 0 0 1px var(--pine);
  position: relative;
}
.tight {
  gap: 0;
}
.tight .one + .one:not(.on) {
  margin-top: -1px;
}
.tight .one:not(:first-child):not(.on) {
  border-top-left-radius: 0;
  border-top-right-radius: 0;
}
.tight .one:not(:last-child):not(.on) {
  border-bottom-left-radius: 0;
  border-bottom-right-radius: 0;
}
.asks {
  padding: 4px 10px 10px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
label {
  display: grid;
  font-size: 12.5px;
  color: var(--dim);
  min-width: 0;
}
input,
select,
textarea {
  font-size: 14px;
  min-width: 0;
  width: 100%;
}
.quick {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
}
.quick .chip {
  padding: 3px 8px;
}
.quick .chip:hover {
  background: var(--pine-soft);
}
.lack {
  color: var(--clay-deep);
  font-size: 12.5px;
}
</style>

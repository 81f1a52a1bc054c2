<script setup lang="ts">
import { computed, onMounted, shallowRef } from 'vue'
import { emailTypeOf } from '#core/cadence/steps'
import { EMAIL_TYPES, choicesOf } from '#core/enumerations'
import type { Cadence } from '#shared/api/cadences/cadences'
import { listSendingWindows, type SendingWindow } from '#shared/api/email/sending'
import { stages as listStages } from '#shared/api/settings/stages'
import { call, type ApiError } from '~/api/call'
import { windowInWords } from '~/components/sending/windowInWords'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** Who may enter a cadence, what ends it early, and when its email may go. */
const cadence = defineModel<Cadence>({ required: true })
const props = defineProps<{ formError: ApiError | null }>()
/** One of the exit rules, changed by giving a new value. */
const part = <P extends keyof Cadence['exits']>(name: P) =>
  computed({
    get: () => cadence.value.exits[name],
    set: (value) => {
      cadence.value = { ...cadence.value, exits: { ...cadence.value.exits, [name]: value } }
    },
  })
const [replied, booked, deal] = [part('replied'), part('booked'), part('deal')]
const [stages, bounced, noAddress] = [part('stages'), part('bounced'), part('noAddress')]
const formSent = part('formSent')
const cold = computed({
  get: () => cadence.value.cold,
  set: (value) => {
    cadence.value = { ...cadence.value, cold: value }
  },
})
/** The type of its emails; what it is where none was chosen follows from whether it is cold. */
const emailType = computed({
  get: () => emailTypeOf(cadence.value),
  set: (value) => {
    cadence.value = { ...cadence.value, emailType: value }
  },
})
const entry = computed({
  get: () => cadence.value.entry,
  set: (value) => {
    cadence.value = { ...cadence.value, entry: value }
  },
})
/** The sending window: the default one where the cadence names none yet. */
const windows = shallowRef<readonly SendingWindow[]>([])
const windowId = computed({
  get: () => cadence.value.windowId ?? windows.value.find(({ isDefault }) => isDefault)?.id ?? null,
  set: (value) => {
    cadence.value = { ...cadence.value, windowId: value }
  },
})
const chosen = computed(() => windows.value.find(({ id }) => id === windowId.value))
const others = computed(() => chosen.value?.cadences.filter(({ id }) => id !== cadence.value.id) ?? [])
onMounted(() =>
  call(listSendingWindows).then((answer) => {
    windows.value = answer.windows
  }, useNotices().error),
)
const times = useTimes()
const offered = shallowRef<readonly { id: string; name: string }[]>([])
onMounted(() =>
  call(listStages).then((answer) => {
    offered.value = answer.stages.filter((stage) => !stage.archived)
  }, useNotices().error),
)
const scopes = (who: string) => [
  { value: 'person', title: `Only the ${who}` },
  { value: 'company', title: 'Everyone at the company' },
]
const orNobody = (who: string) => [{ value: null, title: 'Nobody: the cadence goes on' }, ...scopes(who)]
const at = (field: string) => props.formError?.at(field)
</script>

<template>
  <div class="rules">
    <section class="panel">
      <h2>Who may enter</h2>
      <CadenceEntry v-model="entry" :form-error="formError" />
      <CheckBox v-model="cold" label="Cold: keep away from customers and companies in a deal" />
    </section>
    <section class="panel">
      <h2>Exit rules</h2>
      <p class="dim small">Who leaves the cadence before its last step, and when.</p>
      <v-select v-model="replied" :items="orNobody('person who replied')" label="On a reply" />
      <v-select v-model="booked" :items="scopes('person who booked')" label="On a booked meeting" />
      <v-select v-model="deal" :items="orNobody('person of the deal')" label="On a deal that is opened" />
      <v-select
        :model-value="stages.ids"
        :items="offered"
        item-value="id"
        item-title="name"
        multiple
        label="On one of these stages"
        placeholder="none"
        persistent-placeholder
        :error-messages="at('exits.stages.ids')"
        @update:model-value="stages = { ...stages, ids: [...$event] }"
      />
      <v-select
        v-if="stages.ids.length"
        :model-value="stages.scope"
        :items="scopes('person at that stage')"
        label="Who leaves on such a stage"
        @update:model-value="stages = { ...stages, scope: $event }"
      />
      <v-select v-model="bounced" :items="orNobody('person whose email bounced')" label="On an email that bounces" />
      <v-select v-model="formSent" :items="orNobody('person who sent it')" label="On a form they send (again)" />
      <CheckBox v-model="noAddress" label="Also when no email address that works is left" />
      <p class="dim small">“Do not contact” and a closed stage always end it.</p>
    </section>
    <section class="panel">
      <h2>Sending window</h2>
      <v-select
        v-model="windowId"
        :items="windows"
        item-value="id"
        item-title="name"
        label="When its email may go"
        :error-messages="at('windowId')"
      />
      <p v-if="chosen" class="dim small">
        {{ windowInWords(chosen, times) }}.
        <template v-if="others.length"
          >{{ others.length === 1 ? 'One other cadence uses' : `${others.length} other cadences use` }} it.</template
        >
        {{ ' ' }}<NuxtLink to="/settings/sending">Change windows</NuxtLink>
      </p>
      <v-select v-model="emailType" :items="choicesOf(EMAIL_TYPES)" label="Type of its emails" />
      <p class="dim small">
        Prospects who opted out of this type are skipped. Marketing carries the postal address and the opt-out.
      </p>
    </section>
  </div>
</template>

<style scoped>
.rules {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 16px;
}
.panel {
  display: grid;
  gap: 10px;
  align-content: start;
}
@media (max-width: 1000px) {
  .rules {
    grid-template-columns: 1fr;
  }
}
</style>

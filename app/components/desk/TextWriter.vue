<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { TEXT_STATUSES } from '#core/enumerations'
import { MOST_PARTS, textLength, textLengthInWords } from '#core/text/textMessage'
import { writeText, type Brief } from '#shared/api/desk/desk'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useTimes } from '~/composables/times'
import { useDrafts } from '~/stores/drafts'
import { useNotices } from '~/stores/notices'

/** Sends a text to one person; what was texted before stands above it. */
const props = defineProps<{
  brief: Pick<Brief, 'prospect' | 'texts'>
  taskId: string | null
  /** What a step says to them. */
  begun?: string
  /** Has the cursor when it opens. */
  begin?: boolean
}>()
const emit = defineEmits<{ sent: [] }>()
const drafts = useDrafts()
const notices = useNotices()
const times = useTimes()
const whose = () => props.taskId ?? props.brief.prospect.id
const body = drafts.draft('text', whose, () => props.begun ?? '')
const length = computed(() => textLength(body.value))
/** Numbers that may be texted: the one they wrote from first, then mobile ones. */
const phones = computed(() => {
  const wrote = props.brief.texts.find(({ direction }) => direction === 'in')?.phoneId
  const rank = (phone: { id: string; kind: string }) => {
    if (phone.id === wrote) return 0
    return phone.kind === 'mobile' ? 1 : 2
  }
  return props.brief.prospect.phones
    .filter(({ status }) => status === 'correct' || status === 'unverified')
    .sort((a, b) => rank(a) - rank(b))
})
const chosen = ref<string | null>(null)
const phone = computed(() => phones.value.find(({ id }) => id === chosen.value) ?? phones.value[0] ?? null)
const agreed = ref(false)
const { formError, busy, send: sending } = useSending()
watch(whose, () => {
  formError.value = null
  agreed.value = false
  chosen.value = null
})
const send = () =>
  sending(async () => {
    if (!phone.value || !body.value.trim()) return
    const id = whose()
    const { summary } = await call(writeText, {
      params: { id: props.brief.prospect.id },
      body: {
        id: newId(),
        phoneId: phone.value.id,
        body: body.value,
        taskId: props.taskId,
        agreed: agreed.value,
      },
    })
    notices.say([`Text to ${props.brief.prospect.name} is on its way.`, summary].filter(Boolean).join(' '))
    drafts.write('text', id, null)
    emit('sent')
  })
defineExpose({ send })
</script>

<template>
  <form class="texts" @submit.prevent="send" @keydown.ctrl.enter="send">
    <ol v-if="brief.texts.length" class="said" aria-label="Texts">
      <li v-for="one in brief.texts.slice(0, 6).toReversed()" :key="one.id" :class="one.direction">
        <span class="pre">{{ one.body }}</span>
        <span class="dim small num">
          {{ times.moment(one.at)
          }}<template v-if="one.direction === 'out'"> · {{ TEXT_STATUSES[one.status] }}</template
          ><template v-if="one.error">: {{ one.error }}</template>
        </span>
      </li>
    </ol>
    <p v-if="!phone" class="notice">There is no number that can be texted. Add one under Contact.</p>
    <template v-else>
      <v-select
        v-if="phones.length > 1"
        :model-value="phone.id"
        :items="phones.map((one) => ({ value: one.id, title: `${one.shown} (${one.kind})` }))"
        label="To"
        @update:model-value="chosen = $event"
      />
      <p v-else class="dim small">To {{ phone.shown }}</p>
      <v-textarea
        v-model="body"
        label="Text message"
        rows="3"
        auto-grow
        :autofocus="begin"
        :error-messages="formError?.at('body')"
      />
      <p class="dim small num" :class="{ clay: length.parts > MOST_PARTS }">{{ textLengthInWords(length) }}</p>
      <p v-if="phone.textConsent === 'stopped' || phone.textConsent === 'declined'" class="notice clay">
        They asked for no more texts to this number.
        {{
          phone.textConsent === 'stopped'
            ? 'Only START from it allows them again.'
            : 'If they agreed since, say so under Contact.'
        }}
      </p>
      <template v-else>
        <CheckBox v-if="phone.textConsent === 'unknown'" v-model="agreed" label="They agreed to get texts" />
        <p v-if="formError && !formError.at('body')" class="notice clay" role="alert">{{ formError.message }}</p>
        <div>
          <v-btn
            type="submit"
            color="primary"
            size="small"
            :loading="busy"
            :disabled="!body.trim() || (phone.textConsent === 'unknown' && !agreed)"
            >Send text <kbd class="ml-2">Ctrl Enter</kbd></v-btn
          >
        </div>
      </template>
    </template>
  </form>
</template>

<style scoped>
.texts {
  display: grid;
  gap: 8px;
}
.said {
  list-style: none;
  display: grid;
  gap: 6px;
  padding: 0;
  margin: 0;
}
.said li {
  display: grid;
  max-width: 85%;
  padding: 6px 10px;
  border-left: 2px solid var(--line);
}
.said .in {
  border-left-color: var(--amber);
}
.said .out {
  justify-self: end;
  border-left: 0;
  border-right: 2px solid var(--pine);
  text-align: right;
}
</style>

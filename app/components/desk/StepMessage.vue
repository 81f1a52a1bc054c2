<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Brief } from '#shared/api/desk/desk'
import { textLength, textLengthInWords } from '#core/text/textMessage'
import { mergeFieldsInWords } from '#core/text/mergeFields'
import { useDrafts } from '~/stores/drafts'
import { useNotices } from '~/stores/notices'

/** A text or a social touch that is due: what to send, where, and how to get it there. */
const props = defineProps<{ brief: Brief }>()
const emit = defineEmits<{ sent: [] }>()
/** The text that leaves from here, where a gateway is connected. */
const writer = ref<{ send(): Promise<unknown> } | null>(null)
const drafts = useDrafts()
const notices = useNotices()
const isText = computed(() => props.brief.task?.kind === 'text')
const body = drafts.draft(
  'step message',
  () => props.brief.task?.id ?? '',
  () => props.brief.message?.body ?? '',
)
const phone = computed(() => {
  const usable = props.brief.prospect.phones.filter(({ status }) => status === 'correct' || status === 'unverified')
  return usable.find(({ kind }) => kind === 'mobile') ?? null
})
/** Opens the device's own program for texts, with number and text in it (RFC 5724). */
const smsLink = computed(() => `sms:${phone.value?.number ?? ''}?body=${encodeURIComponent(body.value)}`)
/** An address that can be opened: of the web, whatever a merge field put there. */
const link = computed(() => {
  const given = props.brief.message?.link.trim() ?? ''
  return /^https?:\/\//i.test(given) ? given : null
})
async function copy(): Promise<void> {
  await navigator.clipboard.writeText(body.value).then(
    () => notices.say('Copied.'),
    () => notices.say('This browser does not let the page copy. Select the text and copy it.'),
  )
}
defineExpose({ copy, send: () => writer.value?.send() })
</script>

<template>
  <section v-if="isText && brief.textGateway" class="panel">
    <h3 class="mb-2">Look it over, then send <kbd>S</kbd></h3>
    <p v-if="brief.message?.missing.length" class="notice small">
      There is no {{ mergeFieldsInWords(brief.message.missing) }} on record: fill the gap yourself.
    </p>
    <LazyTextWriter
      ref="writer"
      :brief="brief"
      :task-id="brief.task?.id ?? null"
      :begun="brief.message?.body ?? ''"
      @sent="emit('sent')"
    />
  </section>
  <section v-else class="panel">
    <h3>
      {{ isText ? 'Text to send' : 'What to post or write'
      }}<span v-if="isText && phone" class="dim"> · to {{ phone.shown }}</span>
    </h3>
    <textarea v-model="body" rows="5" :aria-label="isText ? 'Text to send' : 'What to post or write'" />
    <p v-if="isText" class="dim small num">{{ textLengthInWords(textLength(body)) }}</p>
    <p v-if="brief.message?.missing.length" class="notice small">
      There is no {{ mergeFieldsInWords(brief.message.missing) }} on record: fill the gap yourself.
    </p>
    <div class="row mt-2">
      <v-btn size="small" variant="outlined" @click="copy">Copy <kbd class="ml-2">Y</kbd></v-btn>
      <v-btn v-if="isText && phone" size="small" variant="outlined" :href="smsLink">Open in messages</v-btn>
      <v-btn v-if="link" size="small" variant="outlined" :href="link" target="_blank" rel="noopener noreferrer"
        >Open the page</v-btn
      >
      <span v-else-if="brief.message?.link" class="dim small cut">{{ brief.message.link }}</span>
    </div>
    <p class="dim small mt-2">
      {{ isText ? 'Send it, then press Sent.' : 'Do it there, then press Done.' }} If they answer by phone, press
      <kbd>L</kbd> and pick an outcome.
    </p>
  </section>
</template>

<style scoped>
textarea {
  width: 100%;
  border: 0;
  border-bottom: 1px dashed var(--line);
  margin-top: 6px;
  padding: 4px 0;
  font: inherit;
  color: inherit;
  background: none;
  resize: vertical;
}
</style>

<script setup lang="ts">
import { useFileDialog, useIntervalFn } from '@vueuse/core'
import { ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { addResultFile, endExport, listExports, type CallExport } from '#shared/api/blocks/otherDialers'
import { call, messageOf, upload } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** To which other dialers the people of a block went, and what has come back. */
const props = defineProps<{ id: string; closed: boolean }>()
const emit = defineEmits<{ changed: [] }>()
const times = useTimes()
const notices = useNotices()
const answer = shallowRef<z.output<typeof listExports.response> | null>(null)
const lastError = ref('')
const sending = ref(false)
/** The export for which a file was chosen, and why it could not be taken. */
const chosen = ref<string | null>(null)
const fileError = ref<{ id: string; message: string } | null>(null)
async function read(): Promise<void> {
  try {
    answer.value = await call(listExports, { params: { id: props.id } })
    lastError.value = ''
  } catch (error) {
    lastError.value = messageOf(error, 'The other dialers could not be read')
  }
}
void read()
useIntervalFn(() => {
  if (document.visibilityState === 'visible') void read()
}, 3_000)
async function changed(): Promise<void> {
  await read()
  emit('changed')
}
const { open: chooseFile, onChange } = useFileDialog({
  accept: '.csv,.json,.txt,text/csv,application/json',
  multiple: false,
  reset: true,
})
onChange(async (files) => {
  const [file] = files ?? []
  const id = chosen.value
  if (!file || !id) return
  fileError.value = null
  try {
    const path = addResultFile.path.replace('{id}', id)
    const { rows } = (await upload(`${path}?name=${encodeURIComponent(file.name.slice(0, 200))}`, file, () => {})) as {
      rows: number
    }
    notices.say(`${several(rows, 'result')} read from “${file.name}”.`)
  } catch (error) {
    fileError.value = { id, message: (error as Error).message }
  }
  await changed()
})
function addFile(one: CallExport): void {
  chosen.value = one.id
  chooseFile()
}
async function end(one: CallExport): Promise<void> {
  try {
    const { people } = await call(endExport, { params: { id: one.id } })
    notices.say(`${several(people, 'person', 'people')} to call here again.`)
  } catch (error) {
    notices.error(error)
  }
  await changed()
}
const several = (count: number, one: string, many = `${one}s`) =>
  `${count.toLocaleString('en-US')} ${count === 1 ? one : many}`
function inWords({ people, back, waiting, logged, known, endedAt }: CallExport): string {
  const parts = [
    `${back.toLocaleString('en-US')} of ${several(people, 'person', 'people')} back`,
    `${several(logged, 'result')} logged`,
    known ? `${known.toLocaleString('en-US')} logged before` : '',
    waiting ? `${waiting.toLocaleString('en-US')} being logged` : '',
    endedAt ? 'the rest is called here' : '',
  ]
  return parts.filter(Boolean).join(', ')
}
</script>

<template>
  <section aria-label="Other dialers">
    <div class="spread">
      <h2>Other dialers</h2>
      <v-btn v-if="answer && !closed && answer.toExport" size="small" variant="outlined" @click="sending = true"
        >Send {{ several(answer.toExport, 'person', 'people') }} to another dialer</v-btn
      >
    </div>
    <p v-if="lastError" class="clay" role="alert">{{ lastError }}</p>
    <p v-if="answer && !answer.exports.length" class="dim small">
      People who are still to be called can be exported to another dialer as a file. Its results are imported as if they
      were logged here.
    </p>
    <ul v-if="answer">
      <li v-for="one in answer.exports" :key="one.id">
        <div class="spread">
          <p>
            <b>{{ one.dialer }}</b>
            <span class="dim small ml-2"
              >since {{ times.moment(one.exportedAt) }}, by {{ one.exportedBy.name }}; campaign “{{
                one.campaign
              }}”</span
            >
          </p>
          <div class="row small">
            <a class="link" :href="`/api/call-exports/${one.id}/file?format=csv`" download>Download CSV</a>
            <a class="link" :href="`/api/call-exports/${one.id}/file?format=json`" download>JSON</a>
            <button class="link" @click="addFile(one)">Add results</button>
            <button v-if="!one.endedAt && one.back < one.people" class="link" @click="end(one)">
              Call the rest here
            </button>
          </div>
        </div>
        <p class="small">{{ inWords(one) }}.</p>
        <p v-if="fileError?.id === one.id" class="small clay" role="alert">{{ fileError.message }}</p>
        <LazyUnreadableResults
          v-if="one.unreadable"
          :export-id="one.id"
          :count="one.unreadable"
          :dialer="one.dialer"
          @changed="changed"
        />
      </li>
    </ul>
    <LazySendToDialer
      v-if="sending"
      v-model="sending"
      :block-id="id"
      :count="answer?.toExport ?? 0"
      :dialers="answer?.dialers ?? []"
      @done="changed"
    />
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
}
li {
  border-top: 1px solid var(--line);
  padding: 8px 2px;
}
.clay {
  color: var(--clay-deep);
}
</style>

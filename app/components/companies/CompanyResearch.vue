<script setup lang="ts">
import { onMounted, reactive, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { addCompanyLink, addCompanyNote, companyResearch, removeCompanyLink } from '#shared/api/companies'
import { newId } from '#shared/newId'
import { ApiError, call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useDrafts } from '~/stores/drafts'
import { useNotices } from '~/stores/notices'

/** What the team has found out about a company: links, and notes with date and author. */
const props = defineProps<{ id: string }>()
const times = useTimes()
const notices = useNotices()
const found = shallowRef<z.output<typeof companyResearch.response> | null>(null)
const typed = useDrafts().draft('company note', () => props.id)
const busy = ref(false)
const draft = reactive({ url: '', label: '', linking: false, formError: '' })
async function read(): Promise<void> {
  found.value = await call(companyResearch, { params: { id: props.id } })
}
onMounted(() => read().catch(notices.error))
/** One thing at a time: what is pressed twice is done once. */
async function act(work: () => Promise<unknown>): Promise<boolean> {
  if (busy.value) return false
  busy.value = true
  draft.formError = ''
  try {
    await work()
    await read()
    return true
  } catch (error) {
    draft.formError =
      error instanceof ApiError ? (error.problems[0]?.message ?? error.message) : 'This could not be saved'
    return false
  } finally {
    busy.value = false
  }
}
async function keep(): Promise<void> {
  if (await act(() => call(addCompanyNote, { params: { id: props.id }, body: { id: newId(), body: typed.value } }))) {
    typed.value = ''
  }
}
async function link(): Promise<void> {
  if (
    await act(() =>
      call(addCompanyLink, { params: { id: props.id }, body: { url: draft.url.trim(), label: draft.label } }),
    )
  ) {
    Object.assign(draft, { url: '', label: '', linking: false })
  }
}
</script>

<template>
  <section class="panel">
    <h3>Research</h3>
    <p v-for="one in found?.links ?? []" :key="one.id" class="spread">
      <a class="cut" :href="one.url" target="_blank" rel="noopener noreferrer">{{
        one.label || one.url.replace(/^https?:\/\//, '')
      }}</a><button
        class="plain dim"
        :aria-label="`Delete ${one.label || one.url}`"
        @click="act(() => call(removeCompanyLink, { params: { id, link: one.id } }))"
      >
        ×
      </button>
    </p>
    <form v-if="draft.linking" class="form" @submit.prevent="link" @keydown.esc="draft.linking = false">
      <input v-model="draft.url" type="url" aria-label="Address" placeholder="https://" required /><input
        v-model="draft.label"
        aria-label="Link name"
        placeholder="Link name"
        maxlength="200"
      /><v-btn size="small" type="submit" variant="outlined">Save link</v-btn>
    </form>
    <button v-else class="link small" @click="draft.linking = true">Add a link</button>
    <textarea
      v-model="typed"
      rows="2"
      maxlength="10000"
      aria-label="A note on the company"
      placeholder="What did you find out?"
    />
    <v-btn size="small" variant="outlined" :disabled="!typed.trim()" :loading="busy" @click="keep">Save note</v-btn>
    <p v-if="draft.formError" class="small wrong" role="alert">{{ draft.formError }}</p>
    <p v-for="note in found?.notes ?? []" :key="note.id" class="small pre mt-2">
      <span class="dim num">{{ times.day(note.at) }} {{ note.by }}</span
      ><br />{{ note.body }}
    </p>
  </section>
</template>

<style scoped>
p.spread {
  padding: 2px 0;
}
a,
.link {
  display: inline-block;
  min-height: 24px;
  line-height: 24px;
}
.plain {
  min-width: 24px;
  min-height: 24px;
  text-align: center;
}
.form {
  display: grid;
  gap: 6px;
  margin: 4px 0;
}
.formError {
  color: var(--clay-deep);
}
input,
textarea {
  width: 100%;
}
textarea {
  margin: 8px 0 4px;
}
</style>

<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { findFiles, type StoredFile } from '#shared/api/email/files'
import { picturesIn } from '#core/text/html'
import { tooMuchAttached } from '#core/email/hints'
import { call } from '~/api/call'
import { uploadForEmail } from './uploadForEmail'
import { useNotices } from '~/stores/notices'

/** The files that go with an email, and what they come to together with the pictures in its text. */
const props = defineProps<{ html: string | null; readonly?: boolean; errorMessage?: string | undefined }>()
const emit = defineEmits<{ bytes: [bytes: number] }>()
const ids = defineModel<string[]>({ required: true })
const notices = useNotices()
const known = shallowRef<Readonly<Record<string, StoredFile>>>({})
const wanted = computed(() => [...new Set([...ids.value, ...picturesIn(props.html ?? '')])])
watch(
  wanted,
  async (now) => {
    const unknown = now.filter((id) => !known.value[id])
    if (!unknown.length) return
    const { files } = await call(findFiles, { body: { ids: unknown } }).catch(() => ({ files: [] as StoredFile[] }))
    known.value = { ...known.value, ...Object.fromEntries(files.map((file) => [file.id, file])) }
  },
  { immediate: true },
)
const bytes = computed(() => wanted.value.reduce((sum, id) => sum + (known.value[id]?.bytes ?? 0), 0))
watch(bytes, (now) => emit('bytes', now), { immediate: true })
const sizeOf = (count: number) =>
  count < 1_000_000 ? `${Math.ceil(count / 1_000)} kB` : `${(count / 1_000_000).toFixed(1)} MB`
const error = computed(() => props.errorMessage ?? tooMuchAttached(bytes.value))

const picker = ref<HTMLInputElement | null>(null)
/** How much of the file that is being added has gone; null where none is. */
const share = ref<number | null>(null)
async function add(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const chosen = [...(input.files ?? [])]
  input.value = ''
  for (const file of chosen) {
    share.value = 0
    try {
      const stored = await uploadForEmail(file, (part) => {
        share.value = part
      })
      known.value = { ...known.value, [stored.id]: stored }
      ids.value = [...ids.value, stored.id]
    } catch (reason) {
      notices.error(reason)
    }
  }
  share.value = null
}
</script>

<template>
  <div v-if="!readonly || ids.length" class="files small">
    <span v-for="one in ids" :key="one" class="chip">
      <a :href="`/api/files/${one}`" target="_blank" class="cut">{{ known[one]?.name ?? 'File' }}</a>
      <span v-if="known[one]" class="dim num"> {{ sizeOf(known[one]!.bytes) }}</span>
      <button
        v-if="!readonly"
        type="button"
        class="plain"
        :aria-label="`Remove ${known[one]?.name ?? 'file'}`"
        @click="ids = ids.filter((id) => id !== one)"
      >
        ×
      </button>
    </span>
    <button v-if="!readonly" type="button" class="link" :disabled="share !== null" @click="picker?.click()">
      {{ share === null ? 'Attach a file' : `Adding … ${Math.round(share * 100)} %` }}</button><input
      ref="picker"
      type="file"
      multiple
      hidden
      aria-label="File to attach"
      @change="add"
    />
    <p v-if="error" class="clay" role="alert">{{ error }}</p>
  </div>
</template>

<style scoped>
.files {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: baseline;
}
.chip {
  display: inline-flex;
  gap: 6px;
  max-width: 260px;
}
</style>

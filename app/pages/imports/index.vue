<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { IMPORT_STATUSES } from '#core/enumerations'
import { navigateTo } from '#imports'
import { listImports, type Import } from '#shared/api/imports'
import { ApiError, call, upload } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

const times = useTimes()
const notices = useNotices()
const imports = ref<Import[]>([])
const over = ref(false)
const share = ref<number | null>(null)
const formError = ref('')
onMounted(() =>
  call(listImports).then((answer) => {
    imports.value = answer.imports
  }, notices.error),
)

async function take(file: File | undefined): Promise<void> {
  over.value = false
  if (!file) return
  formError.value = ''
  share.value = 0
  try {
    const made = (await upload(`/api/imports?name=${encodeURIComponent(file.name)}`, file, (done) => {
      share.value = done
    })) as Import
    await navigateTo(`/imports/${made.id}`)
  } catch (error) {
    formError.value = error instanceof ApiError ? `${file.name}: ${error.message}` : 'The file could not be read'
  }
  share.value = null
}
</script>

<template>
  <div class="page narrow">
    <h1 class="mb-1">Import prospects</h1>
    <p class="dim mb-4">Nothing is imported until you have reviewed it.</p>
    <label
      class="drop"
      :class="{ over }"
      @dragover.prevent="over = true"
      @dragleave="over = false"
      @drop.prevent="take($event.dataTransfer?.files[0])"
    >
      <input
        type="file"
        accept=".csv,.tsv,.txt,.vcf,text/csv,text/vcard"
        class="file"
        @change="take(($event.target as HTMLInputElement).files?.[0])"
      />
      <b>{{ share === null ? 'Drop a CSV or vCard file here' : `Uploading, ${Math.round(share * 100)}%` }}</b>
      <span class="dim">or click to choose one: comma, semicolon or tab separated, as any spreadsheet saves it.</span>
    </label>
    <p v-if="formError" class="notice clay mt-3" role="alert">{{ formError }}</p>
    <template v-if="imports.length">
      <h2 class="mt-6 mb-2">Past imports</h2>
      <table class="sheet">
        <thead>
          <tr>
            <th>File</th>
            <th>When</th>
            <th>Status</th>
            <th>Imported</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in imports" :key="one.id">
            <td>
              <NuxtLink :to="`/imports/${one.id}`">{{ one.fileName }}</NuxtLink>
            </td>
            <td class="num dim">{{ times.moment(one.createdAt) }}</td>
            <td>{{ IMPORT_STATUSES[one.status] }}</td>
            <td class="num">{{ one.counts.added?.toLocaleString('en-US') ?? '' }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </div>
</template>

<style scoped>
.narrow {
  max-width: 860px;
}
.drop {
  display: grid;
  gap: 4px;
  place-items: center;
  text-align: center;
  padding: 44px 24px;
  border: 2px dashed var(--bark);
  border-radius: 8px;
  background: var(--card);
  cursor: pointer;
}
.drop.over,
.drop:hover {
  border-color: var(--pine);
  background: var(--pine-soft);
}
.drop b {
  font-size: 1.15rem;
}
.file {
  position: absolute;
  opacity: 0;
  width: 1px;
  height: 1px;
}
.drop:focus-within {
  outline: 2px solid var(--pine);
}
</style>

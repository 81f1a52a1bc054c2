<script setup lang="ts">
import { onMounted, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { findDuplicates, listMerges, undoMerge } from '#shared/api/duplicates'
import { ApiError, call } from '~/composables/api'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

const times = useTimes()
const notices = useNotices()
const pairs = shallowRef<z.output<typeof findDuplicates.response>['pairs'] | null>(null)
const merges = shallowRef<z.output<typeof listMerges.response>['merges']>([])
const trouble = ref('')
async function read(): Promise<void> {
  try {
    const [found, done] = await Promise.all([call(findDuplicates, { query: { limit: 100 } }), call(listMerges)])
    pairs.value = found.pairs
    merges.value = done.merges
    trouble.value = ''
  }
  catch (error) {
    trouble.value = error instanceof ApiError ? error.message : 'Duplicates could not be looked for'
  }
}
onMounted(read)
async function back(id: string): Promise<void> {
  try {
    const { kept } = await call(undoMerge, { params: { id } })
    notices.say(['They are two people again.', ...kept].join(' '))
    await read()
  }
  catch (error) {
    notices.wrong(error)
  }
}
</script>

<template>
  <div class="page narrow">
    <p class="back small"><NuxtLink to="/prospects">Prospects</NuxtLink></p>
    <h1 class="mb-1">People who may be there twice</h1>
    <p class="dim mb-4">Everything of the one who goes moves to the one you keep: touches, tasks, cadences, mail, deals, notes, tags and lists. It can be taken back.</p>
    <p v-if="trouble" class="notice clay" role="alert">{{ trouble }} <button class="link" @click="read">Try again</button></p>
    <p v-else-if="pairs && !pairs.length" class="panel">Nobody among the people you see looks like somebody else.</p>
    <div v-else class="pairs"><DuplicatePair v-for="pair in pairs ?? []" :key="pair.one.id + pair.other.id" :pair="pair" @settled="read" @undone="read" /></div>
    <template v-if="merges.length">
      <h2 class="mt-6 mb-2">Merged before</h2>
      <table class="sheet"><thead><tr><th>Kept</th><th>Went into it</th><th>By</th><th>When</th><th /></tr></thead>
        <tbody><tr v-for="one in merges" :key="one.id"><td><NuxtLink :to="`/prospects/${one.keptId}`">{{ one.kept }}</NuxtLink></td><td>{{ one.gone }}</td><td class="dim">{{ one.by }}</td><td class="num dim">{{ times.moment(one.at) }}</td><td class="acts"><button class="link small" @click="back(one.id)">Take back</button></td></tr></tbody>
      </table>
    </template>
  </div>
</template>

<style scoped>
.narrow { max-width: 860px; } .pairs { display: grid; gap: 12px; }
</style>

<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import {
  findDuplicateCompanies,
  findDuplicates,
  listCompanyMerges,
  listMerges,
  mergePairs,
  undoCompanyMerge,
  undoMerge,
} from '#shared/api/duplicates'
import { newId } from '#shared/newId'
import { call, messageOf } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

const times = useTimes()
const notices = useNotices()
const pairs = shallowRef<z.output<typeof findDuplicates.response>['pairs'] | null>(null)
const merges = shallowRef<z.output<typeof listMerges.response>['merges']>([])
const session = useSession()
/** From here on a pair is shown as very likely one. */
const VERY_LIKELY = 0.85
const companies = shallowRef<z.output<typeof findDuplicateCompanies.response>['pairs']>([])
const companyMerges = shallowRef<z.output<typeof listCompanyMerges.response>['merges']>([])
const lastError = ref('')
async function read(): Promise<void> {
  try {
    const [found, done] = await Promise.all([call(findDuplicates, { query: { limit: 100 } }), call(listMerges)])
    pairs.value = found.pairs
    merges.value = done.merges
    if (session.manages) {
      const [alike, merged] = await Promise.all([call(findDuplicateCompanies), call(listCompanyMerges)])
      companies.value = alike.pairs
      companyMerges.value = merged.merges
    }
    lastError.value = ''
  } catch (error) {
    lastError.value = messageOf(error, 'Duplicates could not be looked for')
  }
}
onMounted(read)
async function back(id: string): Promise<void> {
  try {
    const { unchanged } = await call(undoMerge, { params: { id } })
    notices.say(['They are two prospects again.', ...unchanged].join(' '))
    await read()
  } catch (error) {
    notices.error(error)
  }
}
/** Pairs that are one with near certainty; nobody is in two of them. */
const sure = computed(() => {
  const named = new Set<string>()
  return (pairs.value ?? []).filter(({ one, other, sureness }) => {
    if (sureness < VERY_LIKELY || named.has(one.id) || named.has(other.id)) return false
    named.add(one.id).add(other.id)
    return true
  })
})
const busy = ref(false)
async function mergeSure(): Promise<void> {
  busy.value = true
  try {
    const asked = sure.value.map(({ one, other }) => {
      const [primary, duplicate] =
        other.touches > one.touches || (other.touches === one.touches && other.createdAt < one.createdAt)
          ? [other, one]
          : [one, other]
      return { id: newId(), primaryId: primary.id, duplicateId: duplicate.id }
    })
    const { merged, failed } = await call(mergePairs, { body: { pairs: asked } })
    notices.say([`${merged} merged. Each can be undone below.`, ...failed.map((one) => one.message)].join(' '))
  } catch (error) {
    notices.error(error)
  }
  busy.value = false
  await read()
}
async function undoCompany(id: string): Promise<void> {
  try {
    const { unchanged } = await call(undoCompanyMerge, { params: { id } })
    notices.say(['They are two companies again.', ...unchanged].join(' '))
    await read()
  } catch (error) {
    notices.error(error)
  }
}
</script>

<template>
  <div class="page narrow">
    <p class="back small"><NuxtLink to="/prospects">Prospects</NuxtLink></p>
    <h1 class="mb-1">Possible duplicates</h1>
    <p class="dim mb-4">
      Everything of the other person moves to the one you keep: touches, tasks, cadences, email, deals, notes, tags and
      lists. You can undo a merge.
    </p>
    <p v-if="lastError" class="notice clay" role="alert">
      {{ lastError }} <button class="link" @click="read">Try again</button>
    </p>
    <p v-else-if="pairs && !pairs.length" class="panel">No possible duplicates among the people you can see.</p>
    <div v-else-if="sure.length > 1" class="notice row mb-3">
      <span class="grow">{{ sure.length }} pairs are very likely the same person.</span>
      <v-btn size="small" variant="outlined" :loading="busy" @click="mergeSure"
        >Merge these {{ sure.length }}, keep the one with more touches</v-btn
      >
    </div>
    <div v-if="pairs?.length" class="pairs">
      <DuplicatePair
        v-for="pair in pairs ?? []"
        :key="pair.one.id + pair.other.id"
        :pair="pair"
        @settled="read"
        @undone="read"
      />
    </div>
    <template v-if="companies.length">
      <h2 class="mt-6 mb-2">Companies with one name</h2>
      <div class="pairs">
        <CompanyPair
          v-for="pair in companies"
          :key="pair.one.id + pair.other.id"
          :one="pair.one"
          :other="pair.other"
          @merged="read"
          @undone="read"
        />
      </div>
    </template>
    <template v-if="companyMerges.length">
      <h2 class="mt-6 mb-2">Merged companies</h2>
      <table class="sheet">
        <thead>
          <tr>
            <th>Kept</th>
            <th>Merged into it</th>
            <th>By</th>
            <th>When</th>
            <th />
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in companyMerges" :key="one.id">
            <td>
              <NuxtLink :to="`/companies/${one.primaryId}`">{{ one.primary }}</NuxtLink>
            </td>
            <td>{{ one.duplicate }}</td>
            <td class="dim">{{ one.by }}</td>
            <td class="num dim">{{ times.moment(one.at) }}</td>
            <td class="acts"><button class="link small" @click="undoCompany(one.id)">Undo</button></td>
          </tr>
        </tbody>
      </table>
    </template>
    <template v-if="merges.length">
      <h2 class="mt-6 mb-2">Merged people</h2>
      <table class="sheet">
        <thead>
          <tr>
            <th>Kept</th>
            <th>Merged into them</th>
            <th>By</th>
            <th>When</th>
            <th />
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in merges" :key="one.id">
            <td>
              <NuxtLink :to="`/prospects/${one.primaryId}`">{{ one.primary }}</NuxtLink>
            </td>
            <td>{{ one.duplicate }}</td>
            <td class="dim">{{ one.by }}</td>
            <td class="num dim">{{ times.moment(one.at) }}</td>
            <td class="acts"><button class="link small" @click="back(one.id)">Undo</button></td>
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
.pairs {
  display: grid;
  gap: 12px;
}
</style>

<script setup lang="ts">
import { onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import { COMPANY_STATUSES } from '#core/enumerations'
import type { Filter } from '#core/filter/filter'
import { findCompanies } from '#shared/api/lists'
import { call, messageOf } from '~/api/call'
import { useTimes } from '~/composables/times'

/** The companies where someone fits what is asked for, or where nobody is yet; the people there are one step away. */
type Company = z.output<typeof findCompanies.response>['companies'][number]
type Sort = NonNullable<z.input<typeof findCompanies.body>['sort']>
const props = defineProps<{ asked: { filter?: Filter; list?: string; search?: string } }>()
const emit = defineEmits<{ people: [company: string]; counted: [count: number] }>()
const times = useTimes()
const companies = shallowRef<Company[]>([])
const next = ref<string | null>(null)
const sort = ref<Sort>({ field: 'name', down: false })
const busy = ref(true)
const lastError = ref('')
let reading: AbortController | null = null
async function read(more = false): Promise<void> {
  reading?.abort()
  reading = new AbortController()
  busy.value = true
  try {
    const page = await call(findCompanies, {
      body: { ...props.asked, sort: sort.value, limit: 100, ...(more && next.value && { after: next.value }) },
      signal: reading.signal,
    })
    companies.value = more ? [...companies.value, ...page.companies] : page.companies
    next.value = page.next
    emit('counted', page.count)
    lastError.value = ''
    busy.value = false
  } catch (error) {
    if ((error as Error).name === 'AbortError') return
    lastError.value = messageOf(error, 'The companies could not be read')
    busy.value = false
  }
}
watch(
  () => JSON.stringify([props.asked, sort.value]),
  () => void read(),
  { immediate: true },
)
onBeforeUnmount(() => reading?.abort())
const HEADS: { field: Sort['field']; label: string; right?: boolean }[] = [
  { field: 'name', label: 'Company' },
  { field: 'people', label: 'Matching people', right: true },
  { field: 'lastTouch', label: 'Last touch' },
  { field: 'size', label: 'Size', right: true },
]
function sortBy(field: Sort['field']): void {
  sort.value = sort.value.field === field ? { field, down: !sort.value.down } : { field, down: field !== 'name' }
}
function look(event: Event): void {
  const box = event.target as HTMLElement
  if (next.value && !busy.value && box.scrollTop + 3 * box.clientHeight > box.scrollHeight) void read(true)
}
</script>

<template>
  <p v-if="lastError" class="notice clay" role="alert">
    {{ lastError }} <button class="link" @click="read()">Try again</button>
  </p>
  <p v-else-if="!busy && !companies.length" class="panel">No company matches.</p>
  <div v-else class="frame" @scroll.passive="look">
    <table class="sheet" aria-label="Companies" :aria-busy="busy">
      <thead>
        <tr>
          <th
            v-for="head in HEADS"
            :key="head.field"
            :class="{ right: head.right }"
            :aria-sort="sort.field === head.field ? (sort.down ? 'descending' : 'ascending') : undefined"
          >
            <button class="plain" @click="sortBy(head.field)">
              {{ head.label }}{{ sort.field === head.field ? (sort.down ? ' ↓' : ' ↑') : '' }}
            </button>
          </th>
          <th>Industry</th>
          <th>Place</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="company in companies" :key="company.id">
          <td>
            <NuxtLink :to="`/companies/${company.id}`" class="name">{{ company.name }}</NuxtLink><span
              v-if="company.status !== 'open'"
              class="chip ml-2"
              :class="company.status === 'customer' ? 'pine' : company.status === 'in_deal' ? 'amber' : 'clay'"
              >{{ COMPANY_STATUSES[company.status] }}</span
            >
          </td>
          <td class="num right">
            <button
              class="link"
              :aria-label="`${company.fitting} matching at ${company.name}`"
              @click="emit('people', company.name)"
            >
              {{ company.fitting }}</button><span class="dim"> of {{ company.people }}</span>
          </td>
          <td class="num dim">{{ company.lastTouchAt ? times.ago(company.lastTouchAt) : 'never' }}</td>
          <td class="num right">{{ company.size?.toLocaleString('en-US') }}</td>
          <td class="dim">{{ company.industry }}</td>
          <td class="dim">{{ company.place }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.frame {
  flex: 1;
  min-height: 0;
  overflow: auto;
  border-top: 1px solid var(--line);
}
.frame td {
  vertical-align: middle;
}
.right {
  text-align: right;
}
.name {
  font-weight: 550;
  text-decoration: none;
}
.name:hover {
  text-decoration: underline;
}
.link {
  display: inline-block;
  min-width: 24px;
  min-height: 24px;
  line-height: 24px;
}
</style>

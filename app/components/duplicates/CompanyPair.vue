<script setup lang="ts">
import { computed, ref } from 'vue'
import { COMPANY_STATUSES, type CompanyStatus } from '#core/enumerations'
import { mergeCompanies, undoCompanyMerge } from '#shared/api/duplicates'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useNotices } from '~/stores/notices'

/** Two companies side by side, to be made one: what differs stands out, and one says which of them stays. */
interface CompanyLike {
  id: string
  name: string
  domain: string | null
  people: number
  status: CompanyStatus
  city: string | null
}
const props = defineProps<{ one: CompanyLike; other: CompanyLike }>()
const emit = defineEmits<{ merged: [primaryId: string]; undone: [] }>()
const notices = useNotices()
const busy = ref(false)
const both = computed(() => [props.one, props.other] as const)
const LINES: { label: string; of: (company: CompanyLike) => string }[] = [
  { label: 'Domain', of: (company) => company.domain ?? 'none' },
  { label: 'City', of: (company) => company.city ?? '' },
  { label: 'Status', of: (company) => COMPANY_STATUSES[company.status] },
  { label: 'People', of: (company) => String(company.people) },
]

async function keep(primary: CompanyLike, duplicate: CompanyLike): Promise<void> {
  if (busy.value) return
  busy.value = true
  try {
    const id = newId()
    const { summary } = await call(mergeCompanies, {
      params: { id: primary.id },
      body: { id, duplicateId: duplicate.id },
    })
    notices.say(summary, { label: 'Undo', run: () => void undo(id) })
    emit('merged', primary.id)
  } catch (error) {
    notices.error(error)
  }
  busy.value = false
}
async function undo(id: string): Promise<void> {
  try {
    const { unchanged } = await call(undoCompanyMerge, { params: { id } })
    notices.say(['They are two companies again.', ...unchanged].join(' '))
    emit('undone')
  } catch (error) {
    notices.error(error)
  }
}
</script>

<template>
  <section class="panel" :aria-label="`${one.name} and ${other.name}`">
    <table>
      <thead>
        <tr>
          <td />
          <th v-for="company in both" :key="company.id" scope="col">
            <NuxtLink :to="`/companies/${company.id}`">{{ company.name }}</NuxtLink>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="line in LINES" :key="line.label" :class="{ differs: line.of(one) !== line.of(other) }">
          <th scope="row" class="dim">{{ line.label }}</th>
          <td v-for="company in both" :key="company.id">{{ line.of(company) }}</td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td />
          <td>
            <v-btn
              size="small"
              color="primary"
              :disabled="busy"
              :aria-label="`Keep ${one.name}, ${one.domain ?? 'without a domain'}`"
              @click="keep(one, other)"
              >Keep this one</v-btn
            >
          </td>
          <td>
            <v-btn
              size="small"
              color="primary"
              :disabled="busy"
              :aria-label="`Keep ${other.name}, ${other.domain ?? 'without a domain'}`"
              @click="keep(other, one)"
              >Keep this one</v-btn
            >
          </td>
        </tr>
      </tfoot>
    </table>
  </section>
</template>

<style scoped>
table {
  border-collapse: collapse;
  width: 100%;
  table-layout: fixed;
}
th,
td {
  text-align: left;
  padding: 3px 8px 3px 0;
  vertical-align: top;
}
thead td,
tbody th {
  width: 120px;
  font-weight: 400;
}
.differs td {
  font-weight: 600;
}
tfoot td {
  padding-top: 8px;
}
</style>

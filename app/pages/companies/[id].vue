<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { COMPANY_STATUSES, capitalized, valuesOf, type CompanyStatus } from '#core/enumerations'
import { navigateTo, useHead, useRoute } from '#imports'
import { getCompany, setCompanyStatus } from '#shared/api/companies'
import { newId } from '#shared/newId'
import { call, messageOf } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

const id = useRoute().params.id as string
const times = useTimes()
const notices = useNotices()
const company = shallowRef<z.output<typeof getCompany.response> | null>(null)
const lastError = ref('')
const dealing = ref(false)
const session = useSession()
const merging = ref(false)
const statuses = valuesOf(COMPANY_STATUSES)
const like = computed(
  () =>
    company.value && {
      ...company.value,
      status: company.value.status,
      people: company.value.people.length + company.value.hidden,
    },
)
const asked = ref<CompanyStatus | null>(null)
const askedLabel = computed(() => (asked.value ? capitalized(COMPANY_STATUSES[asked.value]) : ''))
const stops = computed(() => asked.value === 'not_a_fit' || asked.value === 'do_not_contact')
async function read(): Promise<void> {
  try {
    company.value = await call(getCompany, { params: { id } })
    // A company that was merged is read where it went.
    if (company.value.id !== id) await navigateTo(`/companies/${company.value.id}`, { replace: true })
  } catch (error) {
    lastError.value = messageOf(error, 'This company could not be read')
  }
}
onMounted(read)
async function set(): Promise<void> {
  if (!asked.value) return
  try {
    const { summary: label } = await call(setCompanyStatus, {
      params: { id },
      body: { id: newId(), to: asked.value },
    })
    notices.say(label)
    asked.value = null
    await read()
  } catch (error) {
    notices.error(error)
  }
}
useHead({ title: computed(() => company.value?.name ?? 'Company') })
/** How many people the company has, seen and unseen, in words. */
function people({ people: seen, hidden }: { people: readonly unknown[]; hidden: number }): string {
  const count = seen.length + hidden
  return `${count} ${count === 1 ? 'person' : 'people'}`
}
</script>

<template>
  <div class="page">
    <p v-if="lastError" class="notice clay" role="alert">{{ lastError }}</p>
    <template v-if="company">
      <div class="spread mb-4">
        <div>
          <h1>{{ company.name }}</h1>
          <p class="dim">
            {{
              [[company.city, company.region, company.country].filter(Boolean).join(', '), company.domain]
                .filter(Boolean)
                .join(' · ')
            }}
          </p>
        </div>
        <div class="row">
          <v-btn v-if="session.manages" variant="text" @click="merging = true">Merge …</v-btn>
          <v-menu>
            <template #activator="{ props }"
              ><v-btn v-bind="props" variant="outlined"
                >Status: {{ capitalized(COMPANY_STATUSES[company!.status]) }}</v-btn
              ></template
            >
            <v-list
              ><v-list-item
                v-for="one in statuses"
                :key="one"
                :title="capitalized(COMPANY_STATUSES[one])"
                :disabled="one === company.status"
                @click="asked = one"
            /></v-list>
          </v-menu>
        </div>
      </div>
      <div class="cols">
        <div class="here">
          <h2 class="mb-2">{{ company.people.length }} {{ company.people.length === 1 ? 'person' : 'people' }} here</h2>
          <table class="sheet">
            <thead>
              <tr>
                <th>Name</th>
                <th>Title</th>
                <th>Stage</th>
                <th>Last touch</th>
                <th>Next</th>
                <th>Owner</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="person in company.people" :key="person.id">
                <td>
                  <NuxtLink :to="`/prospects/${person.id}`">{{ person.name }}</NuxtLink>
                </td>
                <td>{{ person.title }}</td>
                <td>
                  <span class="chip slate">{{ person.stage.name }}</span>
                </td>
                <td class="num dim">{{ person.lastTouchAt ? times.ago(person.lastTouchAt) : 'never' }}</td>
                <td class="num">{{ person.nextAt ? times.moment(person.nextAt) : '—' }}</td>
                <td class="dim">{{ person.owner?.name ?? 'nobody' }}</td>
              </tr>
            </tbody>
          </table>
          <p v-if="company.hidden" class="dim small mt-2">{{ company.hidden }} more here belong to others.</p>
          <div v-if="company.people.length" class="row mt-3">
            <v-btn size="small" variant="outlined" @click="dealing = true">Open a deal</v-btn
            ><NuxtLink
              class="link small"
              :to="{ path: '/deals', query: { status: 'all', filter: `company is &quot;${company.name}&quot;` } }"
              >Deals here</NuxtLink
            >
          </div>
          <DealDialog
            v-if="company.people[0]"
            v-model="dealing"
            :person="{ ...company.people[0], company }"
            @done="read"
          />
          <CompanyThread :id="id" />
          <div class="panel mt-4">
            <RecordChanges
              :id="id"
              :key="company.version"
              of="company"
              title="Changes of the company"
              @changed="read"
            />
          </div>
        </div>
        <aside>
          <KnownOfCompany :id="id" :company="company" @changed="read" /><CompanyMap
            :id="id"
            :name="company.name"
            :place="company.place"
          /><CompanyResearch :id="id" />
        </aside>
      </div>
      <MergeCompany
        v-if="like && session.manages"
        v-model="merging"
        :company="like"
        @merged="$event === id ? read() : navigateTo(`/companies/${$event}`)"
        @undone="read"
      />
      <v-dialog
        :model-value="asked !== null"
        max-width="440"
        aria-label="Company status"
        @update:model-value="asked = null"
      >
        <v-card class="pa-5"
          ><h2>{{ company.name }}: {{ askedLabel }}</h2>
          <p class="my-3">
            {{
              stops
                ? `Everyone here leaves their cadence and queued email is canceled: ${people(company)}.`
                : 'Nobody is taken out of a cadence by this.'
            }}
            You can undo it below.
          </p>
          <div class="row">
            <v-btn :color="stops ? 'error' : 'primary'" @click="set">{{ askedLabel }}</v-btn><v-btn
              variant="text"
              @click="asked = null"
              >Cancel</v-btn
            >
          </div></v-card
        >
      </v-dialog>
    </template>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 24px;
}
.here {
  min-width: 0;
  overflow-x: auto;
}
aside {
  display: grid;
  gap: 12px;
  align-content: start;
}
@media (max-width: 900px) {
  .cols {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>

<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { DEAL_STATUSES, capitalized, valuesOf } from '#core/enumerations'
import { navigateTo, useRoute } from '#imports'
import type { Field } from '#core/filter/fields'
import { conditionsOf, EVERYONE, normalize, type Filter } from '#core/filter/filter'
import { parse, print } from '#core/filter/sentence'
import { findDeals, type DealRow } from '#shared/api/deals'
import { filterFields } from '#shared/api/lists'
import { useAnswer } from '~/composables/answer'
import { call } from '~/api/call'
import { useMoney } from '~/composables/money'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** Deals by state, in any order, of the people whom a filter finds; what they come to stands above. */
const route = useRoute()
const times = useTimes()
const money = useMoney()
const session = useSession()
const notices = useNotices()
type Status = DealRow['status'] | 'all'
type Sort = NonNullable<z.input<typeof findDeals.body>['sort']>
const TABS: { id: Status; label: string }[] = [
  ...valuesOf(DEAL_STATUSES).map((id) => ({ id, label: capitalized(DEAL_STATUSES[id]) })),
  { id: 'all', label: 'All' },
]
const status = computed<Status>(() => TABS.find((one) => one.id === route.query.status)?.id ?? 'open')
const sort = ref<{ field: Sort; down: boolean }>({ field: 'expectedClose', down: false })
const fields = shallowRef<Field[]>([])
const byKey = computed(() => new Map(fields.value.map((field) => [field.key, field])))
const filter = shallowRef<Filter>(EVERYONE)
/** Asked for once the filter of the address is read. */
const ready = ref(false)
const {
  answer: found,
  lastError,
  readAgain: read,
} = useAnswer(
  findDeals,
  () =>
    ready.value
      ? {
          body: {
            status: status.value,
            filter: filter.value,
            sort: sort.value.field,
            down: sort.value.down,
            limit: 500,
          },
        }
      : null,
  { failed: 'The deals could not be read', showsLast: true },
)
onMounted(async () => {
  fields.value = await call(filterFields).then(
    (answer) => answer.fields as Field[],
    () => [],
  )
  try {
    if (typeof route.query.filter === 'string') filter.value = parse(route.query.filter, fields.value)
  } catch (error) {
    notices.error(error)
  }
  ready.value = true
})
function address(change: Record<string, string | undefined>): void {
  void navigateTo({ query: { ...route.query, ...change } }, { replace: true })
}
function setFilter(next: Filter): void {
  filter.value = normalize(next)
  const sentence = print(filter.value, byKey.value)
  address({ filter: conditionsOf(filter.value).length ? sentence : undefined })
}
function sortBy(field: Sort): void {
  sort.value =
    sort.value.field === field ? { field, down: !sort.value.down } : { field, down: field !== 'expectedClose' }
}
const HEADS: { field: Sort; label: string; right?: boolean }[] = [
  { field: 'value', label: 'Value', right: true },
  { field: 'likelihood', label: 'Likelihood', right: true },
  { field: 'expectedClose', label: 'Expected close' },
  { field: 'openedAt', label: 'Opened' },
]
const day = (iso: string) => times.day(Date.parse(`${iso}T12:00Z`), 'UTC')
</script>

<template>
  <div class="page">
    <div class="spread mb-2">
      <div class="row title">
        <h1>Deals</h1>
        <span v-if="found" class="num dim" role="status"
          >{{ found.count.toLocaleString('en-US') }} {{ found.count === 1 ? 'deal' : 'deals' }} ·
          {{ money.show(found.value) || money.show(0)
          }}<template v-if="status === 'open'">
            · {{ money.show(Math.round(found.weighted)) }} by likelihood</template
          ></span
        >
      </div>
      <div class="row" role="group" aria-label="Status">
        <button
          v-for="one in TABS"
          :key="one.id"
          :class="status === one.id ? 'plain on' : 'link'"
          :aria-pressed="status === one.id"
          @click="address({ status: one.id === 'open' ? undefined : one.id })"
        >
          {{ one.label }}
        </button>
      </div>
    </div>
    <div v-if="fields.length" class="row filter">
      <span class="dim">{{
        conditionsOf(filter).length ? 'of prospects where' : 'of all prospects'
      }}</span><FilterSentence :model-value="filter" :fields="fields" class="grow" @update:model-value="setFilter" />
    </div>
    <p v-if="lastError" class="notice clay" role="alert">
      {{ lastError }} <button class="link" @click="read()">Try again</button>
    </p>
    <div v-else-if="found?.deals.length" class="scroll">
      <table class="sheet" aria-label="Deals">
        <thead>
          <tr>
            <th>Deal</th>
            <th>Person</th>
            <th>Stage</th>
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
            <th>Owner</th>
            <th><span class="sr">Close</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="deal in found.deals" :key="deal.id">
            <td>
              <b>{{ deal.name }}</b><span
                v-if="status === 'all' && deal.status !== 'open'"
                class="chip ml-2"
                :class="deal.status === 'won' ? 'pine' : 'clay'"
                >{{ deal.status }}</span
              ><small v-if="deal.reason" class="dim block">{{ deal.reason }}</small>
            </td>
            <td>
              <NuxtLink :to="`/prospects/${deal.person.id}`">{{ deal.person.name }}</NuxtLink><small
                v-if="deal.company && deal.company.name !== deal.name"
                class="dim block"
                >{{ deal.company.name }}</small
              >
            </td>
            <td class="dim">{{ deal.stage?.name }}</td>
            <td class="num right">{{ money.show(deal.value) }}</td>
            <td class="num right">{{ deal.likelihood }}%</td>
            <td
              class="num"
              :class="{
                late:
                  deal.status === 'open' &&
                  deal.expectedClose &&
                  Date.parse(`${deal.expectedClose}T23:59Z`) < session.now,
              }"
            >
              {{ deal.expectedClose ? day(deal.expectedClose) : '' }}
            </td>
            <td class="num dim">{{ times.day(deal.openedAt) }}</td>
            <td class="dim">{{ deal.owner?.name ?? 'nobody' }}</td>
            <td>
              <CloseDeal v-if="deal.status === 'open'" :deal="deal" @done="read" /><span v-else class="num dim small">{{
                deal.closedAt ? times.day(deal.closedAt) : ''
              }}</span>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <div v-else-if="found" class="empty">
      <h2>{{ status === 'open' ? 'No open deals.' : `No ${status === 'all' ? '' : `${status} `}deals here.` }}</h2>
      <p class="dim">Open one from a prospect’s page with D, or book a meeting on the Desk.</p>
    </div>
  </div>
</template>

<style scoped>
.title {
  align-items: baseline;
}
.on {
  font-weight: 600;
}
.right {
  text-align: right;
}
.scroll {
  overflow-x: auto;
}
.block {
  display: block;
}
.filter {
  align-items: baseline;
  margin-bottom: 8px;
}
.late {
  color: var(--clay-deep);
}
.empty {
  margin: 10vh auto;
  text-align: center;
}
</style>

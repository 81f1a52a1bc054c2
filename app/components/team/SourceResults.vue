<script setup lang="ts">
import { onMounted, ref } from 'vue'
import type { z } from 'zod'
import { listSources } from '#shared/api/settings/settings'
import { call } from '~/api/call'
import { useMoney } from '~/composables/money'
import { useNotices } from '~/stores/notices'

/** What each source brought, from people to won deals, and what one of each cost. */
type Source = z.output<typeof listSources.response>['sources'][number]
const money = useMoney()
const notices = useNotices()
const sources = ref<Source[]>([])
onMounted(() =>
  call(listSources).then((answer) => {
    sources.value = answer.sources
  }, notices.error),
)
const COLUMNS: { key: 'people' | 'reached' | 'meetings' | 'opened' | 'deals'; label: string; filter: string }[] = [
  { key: 'people', label: 'People', filter: '' },
  { key: 'reached', label: 'Reached', filter: ' and (conversations is at least 1 or last reply is ever)' },
  { key: 'meetings', label: 'With a meeting', filter: ' and last meeting is ever' },
  { key: 'opened', label: 'Deals opened', filter: '' },
  { key: 'deals', label: 'Deals won', filter: '' },
]
const quoted = (name: string) => `"${name.replaceAll('"', '""')}"`
/** Deals are shown as deals, everything else as people. */
const address = (source: Source, column: (typeof COLUMNS)[number]) =>
  column.key === 'opened' || column.key === 'deals'
    ? {
        path: '/deals',
        query: { filter: `source is ${quoted(source.name)}`, state: column.key === 'deals' ? 'won' : 'all' },
      }
    : { path: '/prospects', query: { filter: `source is ${quoted(source.name)}${column.filter}` } }
const each = (source: Source, count: number) =>
  source.cost && count ? `${money.show(Math.round(source.cost / count))} each` : ''
</script>

<template>
  <section>
    <div class="spread mb-1">
      <h2>Sources</h2>
      <v-btn size="small" variant="text" href="/api/team/sources.csv" download>Export</v-btn>
    </div>
    <p class="dim small mb-2">All prospects by source. Costs are set in Settings.</p>
    <p v-if="!sources.length" class="dim">No source yet.</p>
    <div v-else class="scroll">
      <table class="sheet" aria-label="Sources">
        <thead>
          <tr>
            <th>Source</th>
            <th class="right">Cost</th>
            <th v-for="column in COLUMNS" :key="column.key" class="right">{{ column.label }}</th>
            <th class="right">Won value</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="source in sources" :key="source.name">
            <td>{{ source.name }}</td>
            <td class="right num">{{ source.cost ? money.show(source.cost) : '' }}</td>
            <td v-for="column in COLUMNS" :key="column.key" class="right num">
              <NuxtLink v-if="source[column.key]" :to="address(source, column)">{{
                source[column.key].toLocaleString('en-US')
              }}</NuxtLink><span v-else class="dim">0</span
              ><small class="dim">{{ each(source, source[column.key]) }}</small>
            </td>
            <td class="right num">{{ source.wonValue ? money.show(source.wonValue) : '' }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
.right {
  text-align: right;
}
small {
  display: block;
}
</style>

<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, shallowRef } from 'vue'
import { LINE_RESULTS, capitalized } from '#core/enumerations'
import { MOST_ABANDONED } from '#core/dialing/pacing'
import { linesReport, type LinesReport } from '#shared/api/blocks/lines'
import { call, messageOf } from '~/api/call'

/** How several lines do: the campaign’s calls, how many found no caller, and why so many lines are dialed. */
const props = defineProps<{ id: string }>()
const report = shallowRef<LinesReport | null>(null)
const lastError = ref('')
async function read(): Promise<void> {
  try {
    report.value = await call(linesReport, { params: { id: props.id } })
    lastError.value = ''
  } catch (error) {
    lastError.value = messageOf(error, 'The lines could not be read')
  }
}
void read()
useIntervalFn(() => {
  if (document.visibilityState === 'visible') void read()
}, 3_000)
const percent = (share: number, digits = 1) => `${(share * 100).toFixed(digits)}%`
const results = computed(() =>
  (Object.keys(LINE_RESULTS) as (keyof typeof LINE_RESULTS)[]).map((result) => ({
    result,
    label: capitalized(LINE_RESULTS[result]),
    count: report.value?.byStatus[result] ?? 0,
  })),
)
/** The scale of the bar: twice what the rule allows, or all of the interval. */
const most = computed(() => Math.max(2 * MOST_ABANDONED, Math.min(1, (report.value?.abandonedShare?.high ?? 0) * 1.1)))
const at = (share: number) => `${Math.min(100, (share / most.value) * 100)}%`
const inWords = computed(() => {
  const share = report.value?.abandonedShare
  if (!share) return 'Nobody has answered yet.'
  return `${percent(share.share)} of those who answered found no caller within 2 seconds (95% sure: ${percent(
    share.low,
  )} to ${percent(share.high)}). The rule allows 3%.`
})
</script>

<template>
  <section v-if="report || lastError" aria-label="Several lines">
    <h2>Several lines</h2>
    <p v-if="lastError" class="clay" role="alert">{{ lastError }}</p>
    <template v-if="report">
      <p v-if="report.fault" class="notice clay" role="alert">{{ report.fault }}</p>
      <p>
        Campaign “{{ report.campaign }}”, last 30 days: {{ report.dialed.toLocaleString('en-US') }} calls,
        {{ report.answered.toLocaleString('en-US') }} answered by a person, {{ report.abandoned }} of them without a
        caller.
      </p>
      <p class="dim small mb-2">{{ inWords }}</p>
      <div v-if="report.abandonedShare" class="bar" role="img" :aria-label="inWords">
        <span
          class="range"
          :style="{
            left: at(report.abandonedShare.low),
            width: at(report.abandonedShare.high - report.abandonedShare.low),
          }"
        />
        <span class="point" :style="{ left: at(report.abandonedShare.share) }" />
        <span class="limit" :style="{ left: at(MOST_ABANDONED) }"><span class="small">3%</span></span>
      </div>
      <ul class="results">
        <li v-for="one in results" :key="one.result">
          <b class="num">{{ one.count.toLocaleString('en-US') }}</b> <span class="small">{{ one.label }}</span>
        </li>
      </ul>
      <p class="mt-3">
        Now: {{ report.free }} {{ report.free === 1 ? 'caller' : 'callers' }} waiting, {{ report.ringing }} ringing.
      </p>
      <details class="mt-2">
        <summary>Why not more lines?</summary>
        <p class="dim small my-2">
          Lines are dialed for callers who are waiting, and only as many as are unlikely to be answered by more people
          than that. If {{ report.facts.callers }} {{ report.facts.callers === 1 ? 'caller' : 'callers' }} were dialed
          for without looking who is free, with {{ percent(report.facts.answerRate, 0) }} of calls answered,
          {{ Math.round(report.facts.callSeconds) }} seconds for a call that is not, and
          {{ Math.round(report.facts.handleSeconds) }} seconds for one that is, this would come of it (Erlang B and C):
        </p>
        <table class="sheet">
          <thead>
            <tr>
              <th class="right">Lines</th>
              <th class="right">Answers an hour</th>
              <th class="right">Would find no caller</th>
              <th class="right">Would wait, if held</th>
              <th class="right">For, on average</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in report.table" :key="row.perCaller" :class="{ now: row.perCaller === report.lines }">
              <td class="num right">{{ row.lines }}</td>
              <td class="num right">{{ Math.round(row.answersPerHour) }}</td>
              <td class="num right">{{ percent(row.noCaller) }}</td>
              <td class="num right">{{ percent(row.wait, 0) }}</td>
              <td class="num right">
                {{ row.waitSeconds === null ? 'ever longer' : `${Math.round(row.waitSeconds)} s` }}
              </td>
            </tr>
          </tbody>
        </table>
      </details>
    </template>
  </section>
</template>

<style scoped>
.bar {
  position: relative;
  height: 10px;
  max-width: 520px;
  margin: 6px 0 26px;
  background: var(--shade);
  border: 1px solid var(--line);
}
.range {
  position: absolute;
  top: 0;
  bottom: 0;
  background: var(--slate);
  opacity: 0.35;
}
.point {
  position: absolute;
  top: -3px;
  bottom: -3px;
  width: 3px;
  background: var(--slate);
}
.limit {
  position: absolute;
  top: -5px;
  bottom: -5px;
  border-left: 2px solid var(--clay-deep);
}
.limit span {
  position: absolute;
  top: 16px;
  left: -10px;
  color: var(--clay-deep);
}
.results {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 26px;
  list-style: none;
  padding: 0;
}
details {
  max-width: 720px;
}
summary {
  cursor: pointer;
}
.right {
  text-align: right;
}
tr.now td {
  font-weight: 600;
}
</style>

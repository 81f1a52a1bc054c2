<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { useRoute } from '#imports'
import { figureOf, FIGURES_OF, type StepFigure } from '#core/cadence/figures'
import { shareInWords, shareOf } from '#core/stats/share'
import { exitsInWords } from '#core/cadence/exits'
import { EXIT_REASONS, type ExitReason } from '#core/enumerations'
import { cadenceResults } from '#shared/api/cadences/results'
import type { Figure } from '~/components/cadences/ResultPeople.vue'
import { call, messageOf } from '~/api/call'

/** What came of a cadence so far, step by step: who is there, what was done, who left and why. */
type Results = z.output<typeof cadenceResults.response>
type Row = Results['steps'][number]
const id = useRoute().params.id as string
const results = shallowRef<Results | null>(null)
const lastError = ref('')
const asked = ref<Figure | null>(null)
const read = () =>
  call(cadenceResults, { params: { id } }).then(
    (answer) => {
      results.value = answer
    },
    (error: unknown) => {
      lastError.value = messageOf(error, 'The results could not be read')
    },
  )
onMounted(read)
const number = (count: number) => count.toLocaleString('en-US')
/** A figure as a share of the step’s first one, with its interval. */
function share(row: Pick<Row, 'kind' | 'figures'>, figure: StepFigure): string {
  const [base] = FIGURES_OF[row.kind]
  const found = base && base !== figure ? shareOf(row.figures[figure] ?? 0, row.figures[base] ?? 0) : null
  return found ? shareInWords(found) : ''
}
const open = (row: Row, figure: Figure['figure'], exit?: string, version?: Row['versions'][number]) => {
  const stepName = version && version.name !== 'deleted' ? `${row.name}, version ${version.name}` : row.name
  asked.value = { step: row.id, stepName, figure, ...(exit && { exit }), ...(version && { version: version.id }) }
}
const exits = computed(() => exitsInWords(results.value?.exits ?? {}))
const booked = computed(() => results.value && shareOf(results.value.meetings, results.value.entered))
/** Where steps stand on the climb, those of ways below it; as large as many are there. */
const spots = computed(() => {
  const steps = (results.value?.steps ?? []).filter(({ archived }) => !archived)
  const most = Math.max(1, ...steps.map(({ here }) => here))
  return steps.map((step, index) => ({
    ...step,
    x: 50 + (index * 860) / Math.max(1, steps.length),
    y: 118 - (index * 84) / Math.max(1, steps.length) + (step.wayId ? 34 : 0),
    r: 8 + 14 * Math.sqrt(step.here / most),
    leftHere: Object.values(step.left).reduce((sum, count) => sum + count, 0),
  }))
})
/** The line of the climb, from step to step up to the flag. */
const climb = computed(() => {
  const main = spots.value.flatMap(({ wayId, x, y }) => (wayId ? [] : [`${x} ${y}`]))
  return `M${[...main, '940 26'].join(' L')}`
})
</script>

<template>
  <div class="page">
    <p class="dim small back">
      <NuxtLink to="/cadences">Cadences</NuxtLink> · <NuxtLink :to="`/cadences/${id}`">{{ results?.name }}</NuxtLink>
    </p>
    <p v-if="lastError" class="notice clay" role="alert">{{ lastError }}</p>
    <p v-else-if="!results" class="dim" role="status">Loading …</p>
    <template v-else>
      <h1>Results of “{{ results.name }}”</h1>
      <p class="lead">
        <b>{{ number(results.entered) }}</b> entered, <b>{{ number(results.active) }}</b> are active,
        <b>{{ number(results.meetings) }}</b> booked a meeting<template v-if="booked"
          >: {{ shareInWords(booked) }}</template
        >.
      </p>
      <p v-if="exits" class="dim small">Exited: {{ exits }}.</p>
      <svg viewBox="0 0 1000 190" width="100%" class="climb" aria-hidden="true">
        <path :d="climb" fill="none" stroke="var(--bark)" stroke-width="2" />
        <path d="M940 26 v-20 l16 6 l-16 6" fill="var(--amber)" stroke="var(--amber)" />
        <g v-for="spot in spots" :key="spot.id" :transform="`translate(${spot.x} ${spot.y})`">
          <circle
            :r="spot.r"
            :fill="spot.here ? 'var(--pine)' : 'var(--card)'"
            stroke="var(--pine)"
            stroke-width="1.6"
            :stroke-dasharray="spot.wayId ? '2 2' : undefined"
          />
          <text v-if="spot.here" y="4" text-anchor="middle" class="count">{{ spot.here }}</text>
          <text y="38" text-anchor="middle">
            {{ spot.name.length > 16 ? `${spot.name.slice(0, 15)}…` : spot.name }}
          </text>
          <text v-if="spot.leftHere" y="52" text-anchor="middle" class="exits">{{ spot.leftHere }} left</text>
        </g>
      </svg>
      <p v-if="!results.entered" class="dim">
        Nobody has entered yet. <NuxtLink :to="`/cadences/${id}/launch`" class="link">Add people</NuxtLink>
      </p>
      <table v-else class="table">
        <thead>
          <tr>
            <th>Step</th>
            <th>Here now</th>
            <th>What came of it</th>
            <th>Left at this step</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in results.steps" :key="row.id">
            <td>
              <span class="name"><StepIcon :kind="row.kind" :size="15" color="var(--pine)" /> {{ row.name }}</span
              ><span v-if="row.archived" class="dim small">{{ row.earlier ? 'earlier version' : 'deleted' }}</span>
            </td>
            <td class="num">
              <button v-if="row.here" class="link" @click="open(row, 'here')">{{ number(row.here) }}</button><span
                v-else
                class="dim"
                >0</span
              >
            </td>
            <td>
              <span v-for="figure in FIGURES_OF[row.kind]" :key="figure" class="figure">
                <button v-if="row.figures[figure]" class="link num" @click="open(row, figure)">
                  {{ number(row.figures[figure]!) }}</button><span v-else class="dim num">0</span>
                {{ figureOf(figure, row.figures[figure] ?? 0) }}
                <small v-if="row.figures[figure]" class="dim">{{ share(row, figure) }}</small>
              </span>
              <p v-for="version in row.versions" :key="version.id" class="version small">
                <b>{{ version.name === 'deleted' ? 'Deleted version' : `Version ${version.name}` }}</b>
                <span v-for="figure in FIGURES_OF[row.kind]" :key="figure" class="figure">
                  <button
                    v-if="version.figures[figure]"
                    class="link num"
                    @click="open(row, figure, undefined, version)"
                  >
                    {{ number(version.figures[figure]!) }}</button><span v-else class="dim num">0</span>
                  {{ figureOf(figure, version.figures[figure] ?? 0) }}
                  <small v-if="version.figures[figure]" class="dim">{{
                    share({ kind: row.kind, figures: version.figures }, figure)
                  }}</small>
                </span>
              </p>
            </td>
            <td>
              <span v-for="(count, exit) in row.left" :key="exit" class="figure">
                {{ EXIT_REASONS[exit as ExitReason] ?? exit }}
                <button class="link num" @click="open(row, 'left', String(exit))">{{ number(count) }}</button>
              </span>
            </td>
          </tr>
        </tbody>
      </table>
      <p class="dim small mt-2">
        Percentages are shares of the first number of a step, with their 95% confidence interval. An open is counted
        where the recipient’s mail program says so; delivered is what was sent and did not bounce.
      </p>
      <ResultPeople
        v-model="asked"
        :cadence-id="id"
        :steps="results.steps.filter(({ archived }) => !archived)"
        @changed="read"
      />
    </template>
  </div>
</template>

<style scoped>
.lead {
  font-size: 1.1rem;
}
.climb {
  display: block;
  max-height: 230px;
  overflow: visible;
}
text {
  font-size: 11.5px;
  fill: var(--dim);
}
.count {
  fill: #fffdf8;
  font-weight: 650;
}
.exits {
  fill: var(--clay-deep);
}
.table {
  width: 100%;
  border-collapse: collapse;
  margin-top: 10px;
}
th {
  text-align: left;
  font-size: 12.5px;
  color: var(--dim);
  font-weight: 600;
  padding: 4px 10px 4px 0;
}
td {
  border-top: 1px solid var(--line);
  padding: 7px 10px 7px 0;
  vertical-align: top;
}
.name {
  display: inline-flex;
  gap: 8px;
  align-items: center;
}
.version {
  margin-top: 4px;
  padding-left: 10px;
  border-left: 2px solid var(--line);
}
.version b {
  margin-right: 14px;
}
.figure {
  display: inline-block;
  margin-right: 16px;
}
</style>

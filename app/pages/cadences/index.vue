<script setup lang="ts">
import { exitsInWords } from '#core/cadence/exits'
import { computed, onMounted, ref } from 'vue'
import type { z } from 'zod'
import { navigateTo } from '#imports'
import { importCadence } from '#shared/api/cadences/cadenceFile'
import { addCadence, listCadences } from '#shared/api/cadences/cadences'
import { waitInWords } from '#core/cadence/wait'
import { call } from '~/api/call'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

type Row = z.output<typeof listCadences.response>['cadences'][number]
const notices = useNotices()
const session = useSession()
const cadences = ref<Row[] | null>(null)
const taking = ref(false)
const read = () =>
  call(listCadences).then((answer) => {
    cadences.value = answer.cadences
  }, notices.error)
onMounted(read)
async function make(): Promise<void> {
  try {
    const { id } = await call(addCadence, { body: { name: 'New cadence' } })
    await navigateTo(`/cadences/${id}`)
  } catch (error) {
    notices.error(error)
  }
}
const picker = ref<HTMLInputElement | null>(null)
/** Adds a cadence from a file, and opens it; what is wrong with the file is said with the place in it. */
async function takeFile(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const [chosen] = input.files ?? []
  if (!chosen) return
  const text = await chosen.text()
  input.value = ''
  try {
    const file = JSON.parse(text) as unknown
    const { id } = await call(importCadence, { body: { file } })
    await navigateTo(`/cadences/${id}`)
  } catch (error) {
    if (error instanceof SyntaxError) notices.say(`“${chosen.name}” is not a cadence file: it is not valid JSON.`)
    else notices.error(error)
  }
}
const category = ref('')
const categories = computed(() =>
  [...new Set((cadences.value ?? []).map((row) => row.category).filter(Boolean))].sort(),
)
const shown = computed(() => (cadences.value ?? []).filter((row) => !category.value || row.category === category.value))
const most = (row: Row) => Math.max(1, ...row.steps.map((step) => step.here))
/** Where a cadence's steps stand: on the climb, or below it where they are on a way of a branch. */
const spotsOf = ({ steps }: Row) => {
  const gap = 830 / Math.max(1, steps.length)
  /** How many letters of a name fit, at some 6.5 a letter. */
  const room = Math.floor(gap / 6.5) - 1
  return steps.map((step, index) => ({
    ...step,
    label: step.name.length > room ? `${step.name.slice(0, room - 1).trimEnd()}…` : step.name,
    // The first one's name starts where the drawing does.
    x: 60 + index * gap,
    y: 66 - (index * 36) / steps.length + (step.wayId ? 14 : 0),
  }))
}
/** The line of a cadence's slope, as an SVG path: from step to step up to the flag. */
const climbOf = (row: Row) =>
  `M${[...spotsOf(row).flatMap(({ wayId, x, y }) => (wayId ? [] : [`${x} ${y}`])), '890 30'].join(' L')}`
</script>

<template>
  <div class="page">
    <div class="spread mb-4">
      <div>
        <h1>Cadences</h1>
        <p class="dim">
          Each cadence climbs toward a meeting. Texts that several use are kept as
          <NuxtLink to="/templates" class="link">email templates and snippets</NuxtLink>; what waits to be sent is in
          the <NuxtLink to="/email-queue" class="link">email queue</NuxtLink>.
        </p>
      </div>
      <div class="row">
        <v-btn variant="outlined" @click="picker?.click()">From a file</v-btn
        ><input
          ref="picker"
          type="file"
          accept="application/json,.json"
          hidden
          aria-label="Cadence file"
          @change="takeFile"
        />
        <v-btn v-if="session.manages" variant="outlined" @click="taking = true">Start from a template</v-btn
        ><v-btn color="primary" @click="make">New cadence</v-btn>
      </div>
    </div>
    <LazyStarterDialog v-if="taking" v-model="taking" @done="read" />
    <p v-if="cadences && !cadences.length" class="dim">
      There is no cadence yet. Make one: an email, a call two days later, and so on until there is a meeting.
    </p>
    <p v-if="categories.length > 1" class="row wrap mb-2">
      <button
        v-for="one in ['', ...categories]"
        :key="one"
        class="plain chip"
        :class="{ pine: category === one }"
        :aria-pressed="category === one"
        @click="category = one"
      >
        {{ one || 'All' }}
      </button>
    </p>
    <NuxtLink v-for="row in shown" :key="row.id" :to="`/cadences/${row.id}`" class="one">
      <div>
        <h2>{{ row.name }}</h2>
        <p v-if="row.description" class="dim small">{{ row.description }}</p>
        <p class="dim small">
          <span class="chip" :class="row.status === 'active' ? 'pine' : row.status === 'paused' ? 'amber' : ''">{{
            row.status
          }}</span>
          <span class="num open">{{ row.open }}</span> active<template v-if="row.owner">
            · only for {{ row.owner }}</template
          >
        </p>
        <p class="dim small mt-1">
          {{ exitsInWords(row.exits) ? `Exited: ${exitsInWords(row.exits, 3)}` : 'Nobody has exited yet' }}
        </p>
      </div>
      <svg
        viewBox="0 0 940 104"
        width="100%"
        role="img"
        :aria-label="
          row.steps
            .map((step, index) => `Step ${index + 1}, ${step.name}, ${waitInWords(step.wait)}: ${step.here} people`)
            .join('; ') || 'No steps yet'
        "
      >
        <path v-if="row.steps.length" :d="climbOf(row)" fill="none" stroke="var(--bark)" stroke-width="2" />
        <path d="M890 30 v-22 l18 7 l-18 7" fill="var(--amber)" stroke="var(--amber)" />
        <g v-for="step in spotsOf(row)" :key="step.id" :transform="`translate(${step.x} ${step.y})`">
          <circle
            :r="7 + 8 * Math.sqrt(step.here / most(row))"
            :fill="step.here ? 'var(--pine)' : 'var(--card)'"
            stroke="var(--pine)"
            stroke-width="1.6"
            :stroke-dasharray="step.wayId ? '2 2' : undefined"
          />
          <text v-if="step.here" y="4" text-anchor="middle" class="count">{{ step.here }}</text>
          <text y="29" text-anchor="middle">{{ step.label }}</text>
        </g>
      </svg>
    </NuxtLink>
  </div>
</template>

<style scoped>
.open {
  margin-left: 8px;
}
.chip {
  padding: 2px 9px;
}
.one {
  display: grid;
  grid-template-columns: 290px 1fr;
  gap: 24px;
  padding: 10px 4px;
  border-top: 1px solid var(--line);
  text-decoration: none;
  align-items: center;
}
.one:hover {
  background: var(--card);
}
svg {
  max-height: 150px;
  overflow: visible;
}
text {
  font-size: 12px;
  fill: var(--dim);
}
.count {
  fill: #fffdf8;
  font-weight: 650;
}
.wrap {
  flex-wrap: wrap;
}
@media (max-width: 760px) {
  .spread,
  .spread > .row {
    flex-wrap: wrap;
  }
  .one {
    grid-template-columns: minmax(0, 1fr);
    gap: 8px;
  }
}
</style>

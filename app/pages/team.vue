<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { navigateTo, useRoute } from '#imports'
import type { z } from 'zod'
import { sum, WEEK_LABELS, WEEK_MEASURES, type WeekMeasure } from '#core/stats/week'
import { teamWeek } from '#shared/api/team'
import { call, messageOf } from '~/api/call'
import { useKeys } from '~/composables/keys'
import { useMoney } from '~/composables/money'
import { useTimes } from '~/composables/times'
import { useSession } from '~/stores/session'

/** What each rep did in a week, beside the week before and the goals; every number opens the people behind it. */
type Week = z.output<typeof teamWeek.response>
type User = Week['users'][number]
const route = useRoute()
const session = useSession()
const times = useTimes()
const money = useMoney()
const week = shallowRef<Week | null>(null)
const lastError = ref('')
const opened = ref<ReadonlySet<string>>(new Set())
const settingGoals = ref(false)
/** The number whose people are shown. */
const behind = ref<{ user: string; measure: WeekMeasure | 'overdue'; from: number; to: number; title: string } | null>(
  null,
)
const back = computed(() => Math.max(0, Number(route.query.back) || 0))

async function read(): Promise<void> {
  try {
    week.value = await call(teamWeek, { query: { back: back.value } })
    if (week.value.users.length === 1) opened.value = new Set([week.value.users[0]!.id])
    lastError.value = ''
  } catch (error) {
    lastError.value = messageOf(error, 'The week could not be read')
  }
}
watch(back, read)
const again = () => {
  void read()
}
onMounted(again)
useEventListener(window, 'world-moved', again)
const go = (to: number) => navigateTo({ path: '/team', query: to > 0 ? { back: to } : {} })
useKeys([
  { key: 'ArrowLeft', label: 'The week before', run: () => void go(back.value + 1) },
  { key: 'ArrowRight', label: 'The week after', run: () => void go(back.value - 1) },
])

const workingDays = computed(() => week.value?.workingDays.filter(Boolean).length ?? 5)
const GOALS: Partial<Record<WeekMeasure, keyof User['goals']>> = {
  calls: 'calls',
  conversations: 'conversations',
  booked: 'booked',
}
const goalOf = (user: User, measure: WeekMeasure, days: number): number | null =>
  GOALS[measure] ? user.goals[GOALS[measure]] * days : null
const total = computed<User | null>(() => {
  const users = week.value?.users ?? []
  if (users.length < 2) return null
  const add = (pick: (user: User) => number) => sum(users.map(pick))
  return {
    id: '',
    name: 'Everyone',
    overdue: add((user) => user.overdue),
    wonValue: add((user) => user.wonValue),
    wonValueBefore: add((user) => user.wonValueBefore),
    week: Object.fromEntries(
      WEEK_MEASURES.map((measure) => [
        measure,
        Array.from({ length: 7 }, (_, day) => add((user) => user.week[measure][day]!)),
      ]),
    ) as User['week'],
    before: Object.fromEntries(
      WEEK_MEASURES.map((measure) => [measure, add((user) => user.before[measure])]),
    ) as User['before'],
    goals: {
      calls: add((user) => user.goals.calls),
      conversations: add((user) => user.goals.conversations),
      booked: add((user) => user.goals.booked),
    },
  }
})
const rows = computed(() => [...(week.value?.users ?? []), ...(total.value ? [total.value] : [])])
const span = computed(() => {
  if (!week.value) return ''
  const { days, timeZone } = week.value
  return `${times.day(days[0]!, timeZone)} to ${times.day(days[7]! - 1, timeZone)}`
})
const inFigures = (count: number) => count.toLocaleString('en-US')
function show(user: User, measure: WeekMeasure | 'overdue', day: number | null): void {
  const { days } = week.value!
  const label = measure === 'overdue' ? 'Overdue' : WEEK_LABELS[measure]
  const then = day === null ? span.value : times.day(days[day]!, week.value!.timeZone)
  const when = measure === 'overdue' ? 'now' : then
  behind.value = {
    user: user.id,
    measure,
    from: measure === 'overdue' ? 0 : days[day ?? 0]!,
    to: measure === 'overdue' ? week.value!.today : days[day === null ? 7 : day + 1]!,
    title: `${label}: ${user.name}, ${when}`,
  }
}
function toggle(id: string): void {
  const next = new Set(opened.value)
  if (!next.delete(id)) next.add(id)
  opened.value = next
}
const share = (count: number, goal: number | null) =>
  goal ? `${Math.min(100, Math.round((100 * count) / goal))}%` : '0'
</script>

<template>
  <div class="page">
    <div class="spread mb-1">
      <h1>{{ session.manages ? 'Team' : 'My week' }}</h1>
      <div class="row">
        <button class="link small" @click="go(back + 1)">Week before</button>
        <b class="num center"
          >{{ back === 0 ? 'This week' : back === 1 ? 'Last week' : `${back} weeks ago`
          }}<span class="dim span">{{ span }}</span></b
        >
        <button class="link small" :disabled="back === 0" @click="go(back - 1)">Week after</button>
      </div>
      <div class="row">
        <v-btn v-if="session.manages" size="small" variant="outlined" to="/calls">Team calls</v-btn
        ><v-btn v-if="session.manages" size="small" variant="outlined" @click="settingGoals = true">Goals</v-btn
        ><v-btn size="small" variant="text" :href="`/api/team/week.csv?back=${back}`" download>Export</v-btn>
      </div>
    </div>
    <p class="dim small mb-3">
      Counted by who did it. Click a number to see the people behind it.{{
        workingDays < 5 ? ` ${workingDays} working days in this week.` : ''
      }}
    </p>
    <p v-if="lastError" class="notice clay" role="alert">
      {{ lastError }} <button class="link" @click="read">Try again</button>
    </p>
    <div v-else-if="week" class="scroll">
      <table class="sheet" aria-label="The week by rep">
        <thead>
          <tr>
            <th>Rep</th>
            <th v-for="measure in WEEK_MEASURES" :key="measure" class="right">{{ WEEK_LABELS[measure] }}</th>
            <th class="right">Overdue now</th>
          </tr>
        </thead>
        <tbody v-for="user in rows" :key="user.id" :class="{ all: !user.id }">
          <tr>
            <th scope="row" class="who">
              <button
                class="plain"
                :aria-expanded="opened.has(user.id)"
                :aria-label="`${user.name}, by day`"
                @click="toggle(user.id)"
              >
                <span aria-hidden="true" class="dim">{{ opened.has(user.id) ? '−' : '+' }}</span> {{ user.name }}
              </button>
            </th>
            <td v-for="measure in WEEK_MEASURES" :key="measure" class="right num">
              <button class="plain figure" :disabled="!sum(user.week[measure])" @click="show(user, measure, null)">
                {{ inFigures(sum(user.week[measure]))
                }}<span v-if="goalOf(user, measure, workingDays)" class="dim goal">
                  / {{ inFigures(goalOf(user, measure, workingDays)!) }}</span
                >
              </button>
              <span v-if="goalOf(user, measure, workingDays)" class="bar" aria-hidden="true"
                ><i :style="{ width: share(sum(user.week[measure]), goalOf(user, measure, workingDays)) }"
              /></span>
              <span v-if="measure === 'won' && user.wonValue" class="small worth">{{ money.show(user.wonValue) }}</span>
              <small class="dim"
                >{{ back === 0 ? 'last week' : 'week before' }} {{ inFigures(user.before[measure])
                }}<template v-if="measure === 'won' && user.wonValueBefore"
                  >, {{ money.show(user.wonValueBefore) }}</template
                ></small
              >
            </td>
            <td class="right num">
              <button
                class="plain figure"
                :class="{ late: user.overdue }"
                :disabled="!user.overdue"
                @click="show(user, 'overdue', null)"
              >
                {{ inFigures(user.overdue) }}
              </button>
            </td>
          </tr>
          <template v-if="opened.has(user.id)">
            <tr
              v-for="(at, day) in week.days.slice(0, 7)"
              v-show="week.workingDays[day] || WEEK_MEASURES.some((measure) => user.week[measure][day])"
              :key="at"
              class="day"
            >
              <td class="dim">{{ times.day(at, week.timeZone) }}</td>
              <td v-for="measure in WEEK_MEASURES" :key="measure" class="right num">
                <button v-if="user.week[measure][day]" class="plain figure" @click="show(user, measure, day)">
                  {{ inFigures(user.week[measure][day]!) }}</button><span v-else class="dim">·</span
                ><span v-if="goalOf(user, measure, 1) && week.workingDays[day]" class="dim goal">
                  / {{ goalOf(user, measure, 1) }}</span
                >
              </td>
              <td />
            </tr>
          </template>
        </tbody>
      </table>
    </div>
    <TeamBestTime class="mt-8" />
    <SourceResults v-if="session.manages" class="mt-8" />
    <WeekPeople v-model="behind" />
    <GoalDialog v-if="session.manages && week" v-model="settingGoals" :users="week.users" @done="read" />
  </div>
</template>

<style scoped>
.center {
  text-align: center;
}
.span {
  display: block;
  font-weight: 400;
  font-size: 12.5px;
}
.link:disabled {
  color: var(--bark);
  text-decoration: none;
  cursor: default;
}
.scroll {
  overflow-x: auto;
}
.right {
  text-align: right;
}
.who {
  position: static;
  font-size: 14px;
  color: var(--ink);
  vertical-align: top;
}
.who button {
  min-height: 24px;
}
.who span {
  display: inline-block;
  width: 12px;
}
.figure {
  text-align: right;
  min-height: 24px;
  text-decoration: underline dotted var(--stone);
  text-underline-offset: 3px;
  font-weight: 600;
}
.figure:disabled {
  text-decoration: none;
  cursor: default;
  font-weight: 400;
  color: var(--dim);
}
.figure .goal {
  font-weight: 400;
}
.goal {
  font-size: 12.5px;
}
td small,
.worth {
  display: block;
}
.late {
  color: var(--clay-deep);
}
.bar {
  display: block;
  height: 3px;
  background: var(--shade);
  border-radius: 2px;
  margin: 2px 0 1px auto;
  width: 84px;
}
.bar i {
  display: block;
  height: 3px;
  background: var(--pine);
  border-radius: 2px;
}
.day td {
  padding-top: 2px;
  padding-bottom: 2px;
  border-bottom-color: transparent;
}
.day td:first-child {
  padding-left: 28px;
}
.all tr:first-child > * {
  border-top: 2px solid var(--line);
}
</style>

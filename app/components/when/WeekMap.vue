<script setup lang="ts">
import { computed } from 'vue'
import { useTimes } from '~/composables/times'

/** A week by the clock of the people called: the darker an hour, the more likely they answer; the best have numbers. */
interface WeekHour {
  weekday: number
  hour: number
}
interface HourChance extends WeekHour {
  chance: number
  low: number
  high: number
}
const props = defineProps<{
  hours: readonly HourChance[]
  best: readonly WeekHour[]
  now?: WeekHour | null
  label: string
}>()
const times = useTimes()
const isAt = (one: WeekHour, other: WeekHour | null | undefined) =>
  one.weekday === other?.weekday && one.hour === other.hour
/** A Monday, from which days and hours get their names. */
const MONDAY = Date.UTC(2024, 0, 1)
const momentOf = ({ weekday, hour }: WeekHour) => MONDAY + ((weekday - 1) * 24 + hour) * 3_600_000
const days = computed(() => [...new Set(props.hours.map(({ weekday }) => weekday))].sort((a, b) => a - b))
const columns = computed(() => {
  const all = props.hours.map(({ hour }) => hour)
  return all.length
    ? Array.from({ length: Math.max(...all) - Math.min(...all) + 1 }, (_, at) => Math.min(...all) + at)
    : []
})
const mean = computed(() => props.hours.reduce((sum, { chance }) => sum + chance, 0) / (props.hours.length || 1))
const percent = (share: number) => Math.round(share * 100)
/** From six tenths of the mean, which is pale, to sixteen tenths: where all hours are alike, none stands out. */
const shade = (chance: number) => Math.round(Math.min(1, Math.max(0, chance / mean.value - 0.6)) * 55)
const cell = (weekday: number, hour: number) => props.hours.find((one) => isAt(one, { weekday, hour }))
const rank = (one: WeekHour) => props.best.findIndex((other) => isAt(one, other)) + 1
const dayName = (weekday: number) => times.weekday(momentOf({ weekday, hour: 0 }), 'UTC')
const hourName = (hour: number) => times.hour(momentOf({ weekday: 1, hour }), 'UTC')
const inPercent = ({ chance, low, high }: HourChance) => `${percent(chance)}% (${percent(low)} to ${percent(high)}%)`
const said = (one: HourChance) => `${dayName(one.weekday)} ${hourName(one.hour)}: ${inPercent(one)}`
</script>

<template>
  <table class="week" :aria-label="label">
    <thead>
      <tr>
        <td />
        <th v-for="hour in columns" :key="hour" scope="col">
          <span :class="{ sr: hour % 2 !== columns[0]! % 2 }">{{ hourName(hour) }}</span>
        </th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="weekday in days" :key="weekday">
        <th scope="row">{{ dayName(weekday) }}</th>
        <template v-for="hour in columns" :key="hour">
          <td
            v-for="one in [cell(weekday, hour)].filter((found) => found !== undefined)"
            :key="one.hour"
            :class="{ now: isAt(one, now) }"
            :style="{ '--depth': `${shade(one.chance)}%` }"
            :title="said(one)"
          >
            <b v-if="rank(one)" aria-hidden="true">{{ rank(one) }}</b>
            <span class="sr">{{ percent(one.chance) }}%</span>
          </td>
          <td v-if="!cell(weekday, hour)" class="shut"><span class="sr">no calls</span></td>
        </template>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.week {
  border-collapse: separate;
  border-spacing: 2px;
  font-size: 11.5px;
}
th {
  font-weight: 400;
  color: var(--dim);
  text-align: left;
  padding: 0 4px 0 0;
  white-space: nowrap;
}
thead th {
  width: 22px;
  max-width: 22px;
  padding: 0;
  overflow: visible;
}
tbody td {
  width: 22px;
  height: 16px;
  border-radius: 3px;
  text-align: center;
  line-height: 16px;
  background: color-mix(in srgb, var(--pine) var(--depth), var(--shade));
}
td.shut {
  background: none;
}
td.now {
  outline: 2px solid var(--amber);
  outline-offset: 0;
}
</style>

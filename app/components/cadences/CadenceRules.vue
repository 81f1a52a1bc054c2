<script setup lang="ts">
import { computed, type Ref } from 'vue'
import type { Cadence } from '#shared/api/cadences'
import { useDayHours, WEEKDAYS } from '~/composables/dayHours'

/** When a cadence sends, and who leaves it on a reply or a booked meeting. */
const window = defineModel<Cadence['window']>('window', { required: true })
const exits = defineModel<Cadence['exits']>('exits', { required: true })
const cold = defineModel<boolean>('cold', { required: true })
/** One part of a value, changed by giving a new value. */
const part = <T extends object, K extends keyof T>(whole: Ref<T>, key: K) =>
  computed({
    get: () => whole.value[key],
    set: (value) => {
      whole.value = { ...whole.value, [key]: value }
    },
  })
const [days, from, to] = [part(window, 'days'), part(window, 'from'), part(window, 'to')]
const [replied, booked] = [part(exits, 'replied'), part(exits, 'booked')]
const dayHours = useDayHours()
</script>

<template>
  <div>
    <h2 class="mt-5 mb-2">Sending window</h2>
    <div class="row wrap">
      <label v-for="(day, index) in WEEKDAYS" :key="day" class="day"
        ><input v-model="days" type="checkbox" :value="index + 1" />{{ day }}</label
      >
    </div>
    <div class="row mt-2">
      <v-select v-model="from" :items="dayHours" label="From" /><v-select v-model="to" :items="dayHours" label="To" />
    </div>
    <p class="dim small mt-1">By the recipient’s clock; never on their holidays.</p>
    <h2 class="mt-5 mb-2">Exit rules</h2>
    <v-select
      v-model="replied"
      :items="[
        { value: 'person', title: 'Only the person who replied' },
        { value: 'company', title: 'Everyone at the company' },
      ]"
      label="On a reply"
      class="mb-3"
    />
    <v-select
      v-model="booked"
      :items="[
        { value: 'person', title: 'Only the person who booked' },
        { value: 'company', title: 'Everyone at the company' },
      ]"
      label="On a booked meeting"
      class="mb-3"
    />
    <CheckBox v-model="cold" label="Cold: keep away from customers and companies in a deal" />
  </div>
</template>

<style scoped>
.day {
  display: flex;
  gap: 4px;
  align-items: center;
}
.wrap {
  flex-wrap: wrap;
}
</style>

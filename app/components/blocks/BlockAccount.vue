<script setup lang="ts">
import { computed } from 'vue'
import type { Block } from '#shared/api/blocks/blocks'
import { perHour, timeWorked } from './blockWords'

/** What each caller of a block did: people, calls, what came of them, time, pay. */
const props = defineProps<{ block: Block }>()
const money = (value: number) => value.toLocaleString(undefined, { style: 'currency', currency: props.block.currency })
const paid = computed(() => props.block.payBasis !== 'none')
const sum = (part: (one: Block['account'][number]) => number) =>
  props.block.account.reduce((total, one) => total + part(one), 0)
const all = computed(() => ({
  people: sum((one) => one.people),
  calls: sum((one) => one.calls),
  reached: sum((one) => one.reached),
  conversations: sum((one) => one.conversations),
  messages: sum((one) => one.messages),
  meetings: sum((one) => one.meetings),
  seconds: sum((one) => one.seconds),
  pay: sum((one) => one.pay),
}))
const rows = computed(() => [
  ...props.block.account.map((one) => ({ ...one, key: one.caller.id, name: one.caller.name })),
  ...(props.block.account.length > 1 ? [{ ...all.value, key: 'all', name: 'All', workingNow: false }] : []),
])
</script>

<template>
  <table class="sheet">
    <thead>
      <tr>
        <th>Caller</th>
        <th class="right">People</th>
        <th class="right">Calls</th>
        <th class="right">Reached</th>
        <th class="right">Messages left</th>
        <th class="right">Meetings</th>
        <th class="right">Time</th>
        <th class="right">Calls an hour</th>
        <th class="right">Conversations an hour</th>
        <th class="right">Meetings an hour</th>
        <th v-if="paid" class="right">Pay</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in rows" :key="row.key" :class="{ all: row.key === 'all' }">
        <td>{{ row.name }} <span v-if="row.workingNow" class="chip amber">calling now</span></td>
        <td class="num right">{{ row.people }}</td>
        <td class="num right">{{ row.calls }}</td>
        <td class="num right">{{ row.reached }}</td>
        <td class="num right">{{ row.messages }}</td>
        <td class="num right">{{ row.meetings }}</td>
        <td class="num right">{{ timeWorked(row.seconds) }}</td>
        <td class="num right">{{ perHour(row.calls, row.seconds) }}</td>
        <td class="num right">{{ perHour(row.conversations, row.seconds) }}</td>
        <td class="num right">{{ perHour(row.meetings, row.seconds) }}</td>
        <td v-if="paid" class="num right">{{ money(row.pay) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.right {
  text-align: right;
}
.all td {
  font-weight: 600;
}
</style>

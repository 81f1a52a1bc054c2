<script setup lang="ts">
import { computed, nextTick, onMounted, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { choicesOf, QUEUE_CHANNELS, QUEUE_SORTS, type QueueChannel, type QueueSort } from '#core/enumerations'
import { queueChoices } from '#shared/api/desk/queue'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useDesk } from '~/stores/desk'
import { useNotices } from '~/stores/notices'

/** What the rep narrows the queue to, and the order they work it in; it stays until it is cleared. */
const desk = useDesk()
const notices = useNotices()
const times = useTimes()
const found = shallowRef<z.output<typeof queueChoices.response> | null>(null)
const first = ref<HTMLSelectElement | null>(null)
onMounted(async () => {
  void nextTick(() => first.value?.focus())
  found.value = await call(queueChoices).catch((error) => {
    notices.error(error)
    return null
  })
})
/** A choice of a select: what stands for nothing is left out. */
const chosen = (event: Event) => (event.target as HTMLSelectElement).value || undefined
const HALF_HOUR = 1_800_000
const slots = computed(() =>
  (desk.day?.slots ?? []).filter(({ at, open }) => at + HALF_HOUR > desk.queue!.now && open > 0),
)
/** A stretch of several half hours, which was chosen on the ridge. */
const stretch = computed(() => {
  const { from, to } = desk.choice
  return from && to && to - from > HALF_HOUR ? `${times.clock(from)} to ${times.clock(to)}` : null
})
const zoneInWords = (timeZone: string) => timeZone.split('/').at(-1)!.replaceAll('_', ' ')
function pickSlot(value: string | undefined): void {
  const from = value ? Number(value) : undefined
  desk.narrow({ from, to: from && from + HALF_HOUR })
}
</script>

<template>
  <div class="choice" role="group" aria-label="Filter the queue">
    <label
      >Order
      <select
        ref="first"
        :value="desk.choice.sort"
        @change="desk.narrow({ sort: ($event.target as HTMLSelectElement).value as QueueSort })"
      >
        <option v-for="sort in choicesOf(QUEUE_SORTS)" :key="sort.value" :value="sort.value">{{ sort.title }}</option>
      </select></label
    >
    <label
      >Show
      <select
        :value="desk.choice.channel ?? ''"
        @change="desk.narrow({ channel: chosen($event) as QueueChannel | undefined })"
      >
        <option value="">Everything</option>
        <option v-for="one in found?.channels ?? []" :key="one.channel" :value="one.channel">
          {{ QUEUE_CHANNELS[one.channel] }} ({{ one.count }})
        </option>
      </select></label
    >
    <label v-if="found?.cadences.length || desk.choice.cadenceId"
      >Cadence
      <select :value="desk.choice.cadenceId ?? ''" @change="desk.narrow({ cadenceId: chosen($event) })">
        <option value="">All</option>
        <option v-for="one in found?.cadences ?? []" :key="one.id" :value="one.id">
          {{ one.name }} ({{ one.count }})
        </option>
      </select></label
    >
    <label v-if="found?.lists.length || desk.choice.listId"
      >List
      <select :value="desk.choice.listId ?? ''" @change="desk.narrow({ listId: chosen($event) })">
        <option value="">All</option>
        <option v-for="one in found?.lists ?? []" :key="one.id" :value="one.id">{{ one.name }}</option>
      </select></label
    >
    <label
      >Time zone
      <select :value="desk.choice.timeZone ?? ''" @change="desk.narrow({ timeZone: chosen($event) })">
        <option value="">All</option>
        <option v-for="one in found?.timeZones ?? []" :key="one.timeZone" :value="one.timeZone">
          {{ zoneInWords(one.timeZone) }}, {{ times.clock(desk.queue!.now, one.timeZone) }} ({{ one.count }})
        </option>
      </select></label
    >
    <label
      >When
      <select :value="stretch ? 'stretch' : (desk.choice.from ?? '')" @change="pickSlot(chosen($event))">
        <option value="">Any time today</option>
        <option v-if="stretch" value="stretch">{{ stretch }}</option>
        <option v-for="slot in slots" :key="slot.at" :value="slot.at">
          {{ times.clock(slot.at) }} ({{ slot.open }})
        </option>
      </select></label
    >
    <button v-if="desk.isNarrowed" class="link small" @click="desk.narrow(null)">Clear</button>
  </div>
</template>

<style scoped>
.choice {
  display: grid;
  gap: 4px;
  padding: 8px 14px 10px;
  border-bottom: 1px solid var(--line);
}
label {
  display: grid;
  grid-template-columns: 84px 1fr;
  align-items: center;
  font-size: 12.5px;
  color: var(--dim);
}
select {
  min-width: 0;
  color: var(--ink);
  border: 0;
  border-bottom: 1px solid var(--line);
  background: none;
  font: inherit;
  padding: 2px 0;
}
button {
  justify-self: start;
}
</style>

<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import { teamBestTime } from '#shared/api/desk/bestTime'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** When people answer: the week as all calls of the team have it, or those to one kind of company. */
const times = useTimes()
const notices = useNotices()
const read = shallowRef<z.output<typeof teamBestTime.response> | null>(null)
const industry = ref('')
const load = () =>
  call(teamBestTime, { query: industry.value ? { industry: industry.value } : {} }).then((answer) => {
    read.value = answer
  }, notices.error)
onMounted(load)
watch(industry, load)
const map = computed(() => read.value?.map ?? null)
const percent = (share: number) => `${Math.round(share * 100)}%`
/** A Monday, from which days and hours get their names. */
const MONDAY = Date.UTC(2024, 0, 1)
const bestInWords = computed(() =>
  (map.value?.best ?? [])
    .map(({ weekday, hour, chance }) => {
      const at = MONDAY + ((weekday - 1) * 24 + hour) * 3_600_000
      return `${times.weekday(at, 'UTC')} ${times.hour(at, 'UTC')} (${percent(chance)})`
    })
    .join(', '),
)
</script>

<template>
  <section>
    <h2 class="mb-1">When people answer</h2>
    <p v-if="read && !map" class="dim">Learned from your team’s calls, once there are some.</p>
    <template v-if="read && map">
      <p class="dim small mb-2">
        Calls of the last year, by the local time of the people called. The queue and call blocks can be worked in this
        order.
      </p>
      <label class="kind"
        >Industry
        <select v-model="industry">
          <option value="">All ({{ read.kinds.length }} industries)</option>
          <option v-for="kind in read.kinds" :key="kind.name" :value="kind.name">
            {{ kind.name }} ({{ kind.calls }} {{ kind.calls === 1 ? 'call' : 'calls' }})
          </option>
        </select></label
      >
      <p class="my-2">
        {{ map.reached.toLocaleString('en-US') }} of {{ map.calls.toLocaleString('en-US') }} calls reached someone.
        {{ bestInWords ? `Best: ${bestInWords}.` : 'No hour stands out yet.' }}
      </p>
      <div class="scroll"><WeekMap :hours="map.hours" :best="map.best" label="How likely people are to answer" /></div>
    </template>
  </section>
</template>

<style scoped>
.kind {
  display: inline-flex;
  gap: 8px;
  align-items: center;
}
.kind select {
  border: 0;
  border-bottom: 1px solid var(--line);
  background: none;
  font: inherit;
  color: var(--ink);
  min-height: 24px;
}
.scroll {
  overflow-x: auto;
}
</style>

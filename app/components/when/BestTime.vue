<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import { bestTime } from '#shared/api/desk/bestTime'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'

/** When to call someone, as the team's calls have it: in words, and as a map of their week. */
const props = defineProps<{ prospectId: string; firstName: string }>()
const times = useTimes()
const read = shallowRef<z.output<typeof bestTime.response>['learned']>(null)
const loaded = ref(false)
watch(
  () => props.prospectId,
  async (id) => {
    loaded.value = false
    const answer = await call(bestTime, { params: { id } }).catch(() => null)
    if (id !== props.prospectId) return
    read.value = answer?.learned ?? null
    loaded.value = true
  },
  { immediate: true },
)
const percent = (share: number) => `${Math.round(share * 100)}%`
const calls = (count: number) => `${count.toLocaleString('en-US')} ${count === 1 ? 'call' : 'calls'}`
const best = computed(() => read.value?.best[0] ?? null)
const bestInWords = computed(() => {
  if (!read.value || !best.value) return 'No time of the week stands out yet.'
  const when = best.value.next === null ? '' : `${times.moment(best.value.next, read.value.timeZone)} there: `
  return `${when}${percent(best.value.chance)} likely to answer.`
})
const learnedFrom = computed(() => {
  if (!read.value) return ''
  const { own, kind, team } = read.value
  return [
    ...(own.calls ? [`${calls(own.calls)} to ${props.firstName}`] : []),
    ...(kind ? [`${kind.calls.toLocaleString('en-US')} in the ${kind.name.trim()} industry`] : []),
    `${team.calls.toLocaleString('en-US')} in all`,
  ].join(', ')
})
</script>

<template>
  <section class="panel best-time">
    <h3>Best time to call</h3>
    <p v-if="loaded && !read" class="dim">Learned from your team’s calls, once there are some.</p>
    <template v-if="read">
      <p>
        <b>{{ bestInWords }}</b> Now: {{ percent(read.now.chance) }}.
      </p>
      <div class="scroll">
        <WeekMap
          :hours="read.hours"
          :best="read.best"
          :now="read.now"
          :label="`How likely ${firstName} is to answer`"
        />
      </div>
      <p class="dim small">From {{ learnedFrom }}, by {{ firstName }}’s clock.</p>
    </template>
  </section>
</template>

<style scoped>
.best-time {
  min-height: 208px;
}
.scroll {
  overflow-x: auto;
  margin: 6px 0;
}
</style>

<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import type { z } from 'zod'
import type { queueAnswer } from '#shared/api/desk/queue'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'

/** The block that is worked on the Desk: how far it is, the time with pause, and skipping the person in hand. */
const props = defineProps<{ block: NonNullable<z.output<typeof queueAnswer>['block']> }>()
const desk = useDesk()
const session = useSession()
/** The caller’s time, as it was read and as it runs on. */
const readAt = ref(performance.now())
const tick = ref(performance.now())
watch(
  () => props.block,
  () => {
    readAt.value = tick.value = performance.now()
  },
)
useIntervalFn(() => {
  tick.value = performance.now()
}, 1_000)
const running = computed(() => !props.block.paused && !props.block.closed)
const seconds = computed(
  () => props.block.seconds + (running.value ? Math.max(0, Math.floor((tick.value - readAt.value) / 1_000)) : 0),
)
const clock = computed(() => {
  const two = (value: number) => String(value).padStart(2, '0')
  const hours = Math.floor(seconds.value / 3_600)
  const rest = `${two(Math.floor(seconds.value / 60) % 60)}:${two(seconds.value % 60)}`
  return hours ? `${hours}:${rest}` : rest
})
const skipping = ref(false)
const why = ref('')
const field = ref<HTMLInputElement | null>(null)
watch(
  () => desk.item?.prospectId,
  () => {
    skipping.value = false
  },
)
async function skip(): Promise<void> {
  if (!desk.item) return
  why.value = ''
  skipping.value = true
  await nextTick()
  field.value?.focus()
}
function confirm(): void {
  if (!desk.item || !why.value.trim()) return
  skipping.value = false
  field.value?.blur()
  void desk.skip(desk.item, why.value.trim())
}
const several = (count: number, one: string) => `${count} ${one}${count === 1 ? '' : 's'}`
defineExpose({ pause: () => desk.pause(), skip: () => void skip() })
</script>

<template>
  <section class="bar" aria-label="Call block">
    <div class="grow">
      <b
        ><template v-if="session.onlyCalls">{{ block.name }}</template
        ><NuxtLink v-else :to="`/blocks/${block.id}`">{{ block.name }}</NuxtLink></b
      >
      <span class="dim ml-3">{{ block.inWords }}</span>
    </div>
    <span class="num small"
      >You: {{ several(block.mine.calls, 'call') }}, {{ several(block.mine.conversations, 'conversation') }},
      {{ several(block.mine.meetings, 'meeting') }}</span
    >
    <span class="num time" :class="{ still: !running }" role="timer">{{ clock }}</span>
    <v-btn v-if="!block.closed" size="small" variant="outlined" @click="desk.pause()"
      >{{ block.paused ? 'Resume' : 'Pause' }} <kbd class="ml-2">P</kbd></v-btn
    >
    <form v-if="skipping" class="skip" @submit.prevent="confirm">
      <input
        ref="field"
        v-model="why"
        maxlength="200"
        aria-label="Why skip them"
        placeholder="Why? Enter skips"
        @keydown.escape.stop="skipping = false"
      />
    </form>
    <v-btn v-else-if="desk.item && running" size="small" variant="text" @click="skip"
      >Skip <kbd class="ml-2">X</kbd></v-btn
    >
  </section>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 9px 16px;
  border-bottom: 1px solid var(--line);
  background: var(--card);
}
.time {
  font-size: 1.25rem;
  font-weight: 600;
  min-width: 62px;
  text-align: right;
}
.time.still {
  color: var(--dim);
}
.skip input {
  font: inherit;
  border: 0;
  border-bottom: 2px solid var(--amber);
  background: none;
  width: 190px;
  padding: 2px 0;
}
@media (max-width: 760px) {
  .bar {
    flex-wrap: wrap;
  }
  .bar .grow {
    flex-basis: 100%;
  }
}
</style>

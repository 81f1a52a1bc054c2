<script setup lang="ts">
import { computed, nextTick, watch } from 'vue'
import type { QueueItem } from '#shared/api/desk'
import { useTimes } from '~/composables/times'
import { keyOf, useDesk } from '~/stores/desk'

/** The queue in its groups, each person with the reason for being there; below, who opens later, with when and why. */
const desk = useDesk()
const times = useTimes()
type Group = QueueItem['group']
const GROUPS: readonly { id: Group; label: string }[] = [
  { id: 'promised', label: 'Promised call backs' },
  { id: 'answer', label: 'Answer first' },
  { id: 'overdue', label: 'Overdue' },
  { id: 'due', label: 'Due now' },
  { id: 'new', label: 'New, no contact yet' },
  { id: 'later', label: 'Later' },
]
const COLORS: Record<Group, string> = {
  promised: 'var(--amber)',
  answer: 'var(--amber)',
  overdue: 'var(--clay)',
  due: 'var(--pine)',
  new: 'var(--slate)',
  later: 'var(--slate)',
}
const groups = computed(() =>
  GROUPS.map((group) => ({
    ...group,
    label: desk.queue?.list && group.id === 'due' ? 'To call now, in the list’s order' : group.label,
    items: desk.items.filter((item) => item.group === group.id),
    count: desk.queue?.counts[group.id] ?? 0,
  })).filter((group) => group.items.length || group.count),
)
/** When someone who waits can be worked, and what keeps them back. */
function opens(item: QueueItem): string {
  if (item.opensAt === null) return item.waitsFor ?? ''
  const now = desk.queue!.now
  const when = times.day(item.opensAt) === times.day(now) ? times.clock(item.opensAt) : times.moment(item.opensAt)
  return item.waitsFor ? `${when}, ${item.waitsFor}` : when
}
watch(
  () => desk.item && keyOf(desk.item),
  async () => {
    await nextTick()
    document.querySelector('.queue .on')?.scrollIntoView({ block: 'nearest' })
  },
)
</script>

<template>
  <nav class="queue" aria-label="Queue">
    <p v-if="desk.queue?.list" class="worked">
      <span
        >List: <b>{{ desk.queue.list.name }}</b></span
      >
      <NuxtLink to="/" class="link small">Everything due</NuxtLink>
    </p>
    <template v-for="group in groups" :key="group.id">
      <h2 class="group">
        <span>{{ group.label }}</span><span class="num">{{ group.count }}</span>
      </h2>
      <button
        v-for="item in group.items"
        :key="keyOf(item)"
        class="plain item"
        :class="[group.id, { on: item === desk.item }]"
        :aria-current="item === desk.item"
        @click="desk.choose(keyOf(item))"
      >
        <StepIcon :kind="item.kind" :color="COLORS[item.group]" />
        <span class="who"
          ><span class="cut name">{{ item.name }}</span
          ><small class="dim">{{ item.company }}{{ item.company ? ' · ' : '' }}{{ item.why }}</small></span
        >
        <span v-if="group.id === 'later'" class="side small dim num opens">{{ opens(item) }}</span>
        <span v-else class="side small dim num"
          >{{ group.id === 'promised' ? times.clock(item.dueAt) : times.clock(desk.queue!.now, item.timeZone)
          }}<SlopeMini v-if="item.slope" :step="item.slope.step" :steps="item.slope.steps"
        /></span>
      </button>
      <p v-if="group.count > group.items.length && group.items.length" class="dim small more">
        <button v-if="group.id !== 'later' && desk.limit < 200" class="link small" @click="desk.more">
          Show {{ group.count - group.items.length }} more
        </button>
        <template v-else>and {{ group.count - group.items.length }} more, in this order</template>
      </p>
    </template>
  </nav>
</template>

<style scoped>
.queue {
  overflow-y: auto;
  padding-bottom: 16px;
}
.group {
  padding: 10px 14px 4px;
  font-size: 12.5px;
  font-weight: 500;
  color: var(--dim);
  display: flex;
  justify-content: space-between;
}
.item {
  width: 100%;
  padding: 7px 14px 7px 11px;
  display: grid;
  grid-template-columns: 20px 1fr auto;
  gap: 8px;
  align-items: center;
  border-left: 3px solid transparent;
}
.item.on {
  background: var(--card);
  border-left-color: var(--amber);
}
.item:hover {
  background: var(--shade);
}
.item.on:hover {
  background: var(--card);
}
.item.promised {
  background: var(--amber-soft);
}
.who {
  min-width: 0;
  display: grid;
}
.name {
  font-size: 14.5px;
}
small {
  line-height: 1.3;
}
.side {
  text-align: right;
  display: grid;
  justify-items: end;
}
.opens {
  max-width: 92px;
}
.worked {
  padding: 10px 14px 0;
  display: flex;
  justify-content: space-between;
  gap: 8px;
}
.more {
  padding: 2px 14px 4px;
}
</style>

<script setup lang="ts">
import { computed, nextTick, watch } from 'vue'
import { QUEUE_CHANNELS, QUEUE_SORTS } from '#core/enumerations'
import { isWaiting } from '#core/queue/groupNames'
import type { QueueItem } from '#shared/api/desk/queue'
import { useTimes } from '~/composables/times'
import { keyOf, useDesk } from '~/stores/desk'

/** The queue in its groups, each person with the reason for being there; below, who opens later, with when and why. */
const desk = useDesk()
const times = useTimes()
type Group = QueueItem['group']
const GROUPS: readonly { id: Group; label: string }[] = [
  { id: 'promised', label: 'Call backs' },
  { id: 'answer', label: 'Answer first' },
  { id: 'overdue_reached', label: 'Overdue, spoken to before' },
  { id: 'overdue', label: 'Overdue, never reached' },
  { id: 'due', label: 'Due now' },
  { id: 'soon', label: 'Due soon' },
  { id: 'new', label: 'New, no contact yet' },
  { id: 'later', label: 'Later' },
]
const COLORS: Record<Group, string> = {
  promised: 'var(--amber)',
  answer: 'var(--amber)',
  overdue_reached: 'var(--clay)',
  overdue: 'var(--clay)',
  due: 'var(--pine)',
  soon: 'var(--slate)',
  new: 'var(--slate)',
  later: 'var(--slate)',
}
const dueLabel = computed(() => {
  if (desk.queue?.block) return 'Yours to call next'
  return desk.queue?.list ? 'To call now, in the list’s order' : 'Due now'
})
const choosing = defineModel<boolean>('choosing', { default: false })
const narrowedInWords = computed(() => {
  const { sort, channel, cadenceId, listId, timeZone, from, to } = desk.choice
  return [
    ...(sort === 'recommended' ? [] : [QUEUE_SORTS[sort]]),
    ...(channel ? [QUEUE_CHANNELS[channel]] : []),
    ...(cadenceId ? ['one cadence'] : []),
    ...(listId ? ['one list'] : []),
    ...(timeZone ? [timeZone.split('/').at(-1)!.replaceAll('_', ' ')] : []),
    ...(from && to ? [`${times.clock(from)} to ${times.clock(to)}`] : []),
  ].join(', ')
})
/** In an order of the rep’s own, what can be done now is one group after promises and answers. */
const MERGED: ReadonlySet<Group> = new Set(['overdue_reached', 'overdue', 'due', 'new'])
const isMerged = computed(() => !desk.queue?.list && !desk.queue?.block && desk.choice.sort !== 'recommended')
const groups = computed(() => (isMerged.value ? merged(inGroups.value) : inGroups.value))
/** What the team puts first, after promises and answers. */
const priorities = computed(() =>
  (desk.queue?.priorities ?? []).map(({ label, count }) => ({
    key: label,
    id: 'due' as const,
    label,
    items: desk.items.filter((item) => item.priority === label),
    count,
  })),
)
function merged(all: typeof inGroups.value) {
  const parts = all.filter(({ id }) => MERGED.has(id))
  if (!parts.length) return all
  const one = {
    key: 'merged',
    id: 'due' as const,
    label: QUEUE_SORTS[desk.choice.sort],
    items: desk.items.filter((item) => MERGED.has(item.group)),
    count: parts.reduce((sum, { count }) => sum + count, 0),
  }
  const [before, after] = [
    ['promised', 'answer'],
    ['soon', 'later'],
  ].map((ids) => all.filter(({ id }) => ids.includes(id)))
  return [...before!, one, ...after!]
}
const inGroups = computed(() => {
  const [first, rest] = [GROUPS.slice(0, 2), GROUPS.slice(2)].map(byGroup)
  return [...first!, ...priorities.value, ...rest!].filter((group) => group.items.length || group.count)
})
const byGroup = (groups: typeof GROUPS) =>
  groups.map((group) => ({
    ...group,
    key: group.id as string,
    label: group.id === 'due' ? dueLabel.value : group.label,
    items: desk.items.filter((item) => item.group === group.id && item.priority === null),
    count: desk.queue?.counts[group.id] ?? 0,
  }))
/** An instant: of today its time alone. */
const when = (at: number) => (times.day(at) === times.day(desk.queue!.now) ? times.clock(at) : times.moment(at))
/** What the clock shows where someone is; nothing where it shows what it shows here. */
function clockThere({ timeZone }: QueueItem): string {
  const there = times.clock(desk.queue!.now, timeZone)
  return there === times.clock(desk.queue!.now) ? '' : `${there} there`
}
/** When someone who waits can be worked, and what keeps them back. */
function opens(item: QueueItem): string {
  if (item.opensAt === null) return item.waitsFor ?? ''
  return item.waitsFor ? `${when(item.opensAt)}, ${item.waitsFor}` : when(item.opensAt)
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
    <template v-if="!desk.queue?.list && !desk.queue?.block">
      <p class="worked">
        <span v-if="desk.isNarrowed" class="chip amber">{{ narrowedInWords }}</span>
        <button class="link small choose" :aria-expanded="choosing" @click="choosing = !choosing">
          {{ choosing ? 'Close' : 'Order and filter' }} <kbd>F</kbd>
        </button>
        <button v-if="desk.isNarrowed && !choosing" class="link small" @click="desk.narrow(null)">Clear</button>
      </p>
      <LazyQueueChoice v-if="choosing" @keydown.escape.stop="choosing = false" />
    </template>
    <p v-if="desk.queue?.list" class="worked">
      <span
        >List: <b>{{ desk.queue.list.name }}</b></span
      >
      <NuxtLink to="/" class="link small">Everything due</NuxtLink>
    </p>
    <p v-if="desk.queue?.block" class="worked">
      <span
        >Call block: <b>{{ desk.queue.block.name }}</b></span
      >
      <NuxtLink to="/" class="link small">Everything due</NuxtLink>
    </p>
    <p v-for="block in desk.queue?.blocks ?? []" :key="block.id" class="worked">
      <span
        >Call block:
        <NuxtLink :to="{ path: '/', query: { block: block.id } }" class="link">{{ block.name }}</NuxtLink><span
          v-if="block.dueOn"
          class="dim small"
        >
          due {{ times.day(Date.parse(`${block.dueOn}T12:00:00Z`), 'UTC') }}</span
        ></span
      >
    </p>
    <p v-if="desk.queue?.overdue" class="notice clay small held" role="status">
      {{ desk.queue.overdue.count }} overdue, more than {{ desk.queue.overdue.most }}: nobody new is assigned to you
      until they are dealt with. Start at the top.
    </p>
    <template v-for="group in groups" :key="group.key">
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
        <span v-if="isWaiting(group.id)" class="side small dim num">{{ opens(item) }}</span>
        <span v-else class="side small dim num" :class="{ there: group.id !== 'promised' }"
          >{{ group.id === 'promised' ? when(item.dueAt) : clockThere(item)
          }}<SlopeMini v-if="item.slope" :step="item.slope.step" :steps="item.slope.steps"
        /></span>
      </button>
      <p v-if="group.count > group.items.length && group.items.length" class="dim small more">
        <button v-if="!isWaiting(group.id) && desk.limit < 200" class="link small" @click="desk.more">
          Show {{ group.count - group.items.length }} more
        </button>
        <template v-else>and {{ group.count - group.items.length }} more, in this order</template>
      </p>
    </template>
  </nav>
</template>

<style scoped>
.queue {
  position: relative;
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
  max-width: 92px;
}
.there {
  max-width: 66px;
}
.worked {
  padding: 10px 14px 0;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
}
.choose {
  white-space: nowrap;
}
.held {
  margin: 10px 14px 0;
}
.more {
  padding: 2px 14px 4px;
}
</style>

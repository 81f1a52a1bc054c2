<script setup lang="ts">
import { computed, nextTick, watch } from 'vue'
import type { QueueItem } from '#shared/api/desk'
import { useTimes } from '~/composables/times'
import { keyOf, useDesk } from '~/stores/desk'

/** The queue in its groups, each person with the reason for being there. */
const desk = useDesk()
const times = useTimes()
const GROUPS = [{ id: 'answer', says: 'Answer first' }, { id: 'overdue', says: 'Overdue' }, { id: 'due', says: 'Due now' }] as const
const groups = computed(() => GROUPS.map(group => ({ ...group, items: desk.items.filter(item => item.group === group.id), count: desk.queue?.counts[group.id] ?? 0 })).filter(group => group.items.length))
const COLORS: Record<QueueItem['group'], string> = { answer: 'var(--amber)', overdue: 'var(--clay)', due: 'var(--pine)', later: 'var(--slate)' }
watch(() => desk.item && keyOf(desk.item), async () => {
  await nextTick()
  document.querySelector('.queue .on')?.scrollIntoView({ block: 'nearest' })
})
</script>

<template>
  <nav class="queue" aria-label="Queue">
    <p v-if="desk.queue?.list" class="worked"><span>List: <b>{{ desk.queue.list.name }}</b></span> <NuxtLink to="/" class="link small">All that is due</NuxtLink></p>
    <template v-for="group in groups" :key="group.id">
      <h2 class="group"><span>{{ desk.queue?.list ? 'To reach now, in the list’s order' : group.says }}</span><span class="num">{{ group.count }}</span></h2>
      <button v-for="item in group.items" :key="keyOf(item)" class="plain item" :class="{ on: item === desk.item }" :aria-current="item === desk.item" @click="desk.choose(keyOf(item))">
        <StepIcon :kind="item.kind" :color="COLORS[item.group]" />
        <span class="who"><span class="cut name">{{ item.name }}</span><small class="dim">{{ item.company }}{{ item.company ? ' · ' : '' }}{{ item.why }}</small></span>
        <span class="side small dim num">{{ times.clock(desk.queue!.now, item.zone) }}<SlopeMini v-if="item.slope" :step="item.slope.step" :steps="item.slope.steps" /></span>
      </button>
      <p v-if="group.count > group.items.length" class="dim small more">and {{ group.count - group.items.length }} more, in this order</p>
    </template>
    <h2 v-if="desk.queue?.counts.later" class="group"><span>{{ desk.queue.list ? 'Not at this hour where they are' : 'Opens later today' }}</span><span class="num">{{ desk.queue.counts.later }}</span></h2>
    <p v-if="desk.queue?.opensNext" class="dim small more num">{{ desk.queue.opensNext.count }} at {{ times.clock(desk.queue.opensNext.at) }}</p>
  </nav>
</template>

<style scoped>
.queue { overflow-y: auto; padding-bottom: 16px; }
.group { padding: 10px 14px 4px; font-size: 12.5px; font-weight: 500; color: var(--dim); display: flex; justify-content: space-between; }
.item { width: 100%; padding: 7px 14px 7px 11px; display: grid; grid-template-columns: 20px 1fr auto; gap: 8px; align-items: center; border-left: 3px solid transparent; }
.item.on { background: var(--card); border-left-color: var(--amber); }
.item:hover { background: var(--shade); } .item.on:hover { background: var(--card); }
.who { min-width: 0; display: grid; } .name { font-size: 14.5px; } small { line-height: 1.3; }
.side { text-align: right; display: grid; justify-items: end; }
.worked { padding: 10px 14px 0; display: flex; justify-content: space-between; gap: 8px; }
.more { padding: 2px 14px 4px; }
</style>

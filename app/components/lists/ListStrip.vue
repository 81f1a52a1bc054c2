<script setup lang="ts">
import { computed, nextTick, ref, shallowRef, watch } from 'vue'
import { VueDraggable } from 'vue-draggable-plus'
import type { z } from 'zod'
import { inWords } from '#core/queue/touchGoal'
import { listCount, orderLists, type List } from '#shared/api/lists'
import { ApiError, call } from '~/api/call'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** The lists in the order they are worked, each with its count; a manager drags them into another order. */
const props = defineProps<{ lists: readonly List[]; chosen: string | null }>()
const emit = defineEmits<{ choose: [id: string | null]; moved: [] }>()
const session = useSession()
const notices = useNotices()
const shown = ref<List[]>([])
const counts = shallowRef(new Map<string, z.output<typeof listCount.response>>())

async function count(id: string): Promise<void> {
  const response = await call(listCount, { params: { id } }).catch(() => null)
  if (response) counts.value = new Map([...counts.value, [id, response]])
}
/** How many counts are asked for at a time. */
const AT_A_TIME = 4
/** Counts the lists, the one that is shown first. */
async function countAll(ids: readonly string[]): Promise<void> {
  const left = [...ids].sort((a, b) => Number(b === props.chosen) - Number(a === props.chosen))
  const next = async (): Promise<void> => {
    for (let id = left.shift(); id; id = left.shift()) await count(id)
  }
  await Promise.all(Array.from({ length: AT_A_TIME }, next))
}
/** The order that the server has; null: that of the lists as they were read. */
let orderBefore: string[] | null = null
const root = ref<HTMLElement | null>(null)
function focusOn(id: string): void {
  root.value?.querySelector<HTMLElement>(`[data-list="${id}"]`)?.focus()
}
/** The order that was chosen here last, until the lists are read in it: an answer from before is not shown. */
let wanted: string[] | null = null
watch(
  () => props.lists,
  (lists) => {
    orderBefore = null
    const focused = (document.activeElement as HTMLElement | null)?.dataset.list
    const order = wanted
    if (order && (lists.length !== order.length || lists.every((list, index) => list.id === order[index]))) {
      wanted = null
    }
    shown.value = wanted ? [...lists].sort((a, b) => wanted!.indexOf(a.id) - wanted!.indexOf(b.id)) : [...lists]
    if (focused) void nextTick(() => focusOn(focused))
    void countAll(lists.map((list) => list.id))
  },
  { immediate: true },
)

let ordering = Promise.resolve()
/** Keeps an order; one after the other, so that two moves in quick succession both hold. */
function order(ids: string[]): Promise<void> {
  wanted = ids
  ordering = ordering.then(async () => {
    try {
      await call(orderLists, { body: { ids, before: orderBefore ?? props.lists.map((list) => list.id) } })
      orderBefore = ids
    } catch (error) {
      orderBefore = null
      wanted = null
      notices.error(error)
      if (!(error instanceof ApiError)) throw error
    }
    emit('moved')
  })
  return ordering
}
/** Moves a list up or down by keyboard; the cursor goes along. */
async function step(index: number, by: number): Promise<void> {
  const now = [...shown.value]
  const moved = now[index]
  if (!session.manages || !moved || !now[index + by]) return
  now.splice(index + by, 0, ...now.splice(index, 1))
  shown.value = now
  await nextTick()
  focusOn(moved.id)
  await order(now.map((list) => list.id))
}
const said = computed(() => (id: string) => {
  const response = counts.value.get(id)
  if (!response) return ''
  return response.companies === null
    ? `${response.exact ? '' : '~'}${response.count.toLocaleString('en-US')}`
    : response.companies.toLocaleString('en-US')
})
/** What else there is to say of a list, the most pressing first: the line is cut where it ends. */
function more(list: List): { label: string; past?: boolean }[] {
  const response = counts.value.get(list.id)
  const seen = { me: 'only mine', team: `for ${list.team}`, named: 'for some', everyone: '' }[list.visibility]
  const kind = [list.kind === 'fixed' ? 'fixed' : '', list.defaultView === 'companies' ? 'companies' : '']
    .filter(Boolean)
    .join(', ')
  return [
    { label: response?.touchGoal?.overdue ? `${response.touchGoal.overdue} overdue` : '', past: true },
    { label: response?.handledToday ? `${response.handledToday} handled today` : '' },
    { label: list.touchEvery && !response?.handledToday ? inWords(list.touchEvery) : '' },
    { label: kind },
    { label: seen },
  ].filter((one) => one.label)
}
defineExpose({
  recount: (id: string) => count(id),
  recountAll: () => void countAll(props.lists.map((list) => list.id)),
  counts,
})
</script>

<template>
  <nav ref="root" class="strip" aria-label="Lists">
    <button class="plain one" :class="{ on: chosen === null }" @click="emit('choose', null)">
      <span>Everyone</span>
    </button>
    <VueDraggable
      v-model="shown"
      :animation="120"
      :disabled="!session.manages"
      handle=".one"
      @end="order(shown.map((list) => list.id))"
    >
      <button
        v-for="(list, index) in shown"
        :key="list.id"
        :data-list="list.id"
        class="plain one"
        :class="{ on: chosen === list.id, broken: list.problems.length }"
        :title="session.manages ? 'Drag, or Alt with the arrows, to change the order' : undefined"
        :aria-current="chosen === list.id || undefined"
        @click="emit('choose', list.id)"
        @keydown.alt.up.prevent="step(index, -1)"
        @keydown.alt.down.prevent="step(index, 1)"
      >
        <span class="cut">{{ list.name }}</span><span class="num count">{{
          list.problems.length ? 'broken' : said(list.id)
        }}</span>
        <small v-if="more(list).length" class="dim cut"
          ><template v-for="({ label, past }, place) in more(list)" :key="label"
            >{{ place ? ' · ' : '' }}<span :class="{ past }">{{ label }}</span></template
          ></small
        >
      </button>
    </VueDraggable>
  </nav>
</template>

<style scoped>
.strip {
  overflow-y: auto;
  min-height: 0;
  padding: 2px 10px 12px 0;
  border-right: 1px solid var(--line);
}
.one {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 0 8px;
  width: 100%;
  padding: 5px 9px;
  border-radius: 6px;
}
.one:hover {
  background: var(--card);
}
.one.on {
  background: var(--pine-soft);
  font-weight: 600;
}
.one small {
  grid-column: 1 / -1;
  font-weight: 400;
  line-height: 1.3;
}
.one small:empty {
  display: none;
}
.count {
  color: var(--dim);
  font-weight: 500;
}
.past {
  color: var(--clay-deep);
}
.broken .count {
  color: var(--clay-deep);
}
</style>

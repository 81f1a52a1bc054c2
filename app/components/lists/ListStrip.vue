<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { VueDraggable } from 'vue-draggable-plus'
import type { z } from 'zod'
import { inWords } from '#core/queue/promise'
import { listCount, orderLists, type List } from '#shared/api/lists'
import { ApiError, call } from '~/composables/api'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** The lists in the order they are worked, each with its count; a manager drags them into another order. */
const props = defineProps<{ lists: readonly List[], chosen: string | null }>()
const emit = defineEmits<{ choose: [id: string | null], moved: [] }>()
const session = useSession()
const notices = useNotices()
const shown = ref<List[]>([])
const counts = shallowRef(new Map<string, z.output<typeof listCount.response>>())

async function count(id: string): Promise<void> {
  const told = await call(listCount, { params: { id } }).catch(() => null)
  if (told) counts.value = new Map([...counts.value, [id, told]])
}
watch(() => props.lists, (lists) => {
  shown.value = [...lists]
  for (const { id } of lists) void count(id)
}, { immediate: true })

async function order(ids: string[]): Promise<void> {
  try {
    await call(orderLists, { body: { ids, before: props.lists.map(list => list.id) } })
  }
  catch (error) {
    notices.wrong(error)
    if (!(error instanceof ApiError)) throw error
  }
  emit('moved')
}
function step(index: number, by: number): void {
  const ids = shown.value.map(list => list.id)
  if (!session.manages || !ids[index + by]) return
  ids.splice(index + by, 0, ...ids.splice(index, 1))
  void order(ids)
}
const said = computed(() => (id: string) => {
  const told = counts.value.get(id)
  if (!told) return ''
  return told.companies === null ? `${told.exact ? '' : '~'}${told.count.toLocaleString('en-US')}` : told.companies.toLocaleString('en-US')
})
/** What else there is to say of a list, the most pressing first: the line is cut where it ends. */
function more(list: List): { says: string, past?: boolean }[] {
  const told = counts.value.get(list.id)
  const seen = { me: 'only mine', team: `for ${list.team}`, named: 'for some', everyone: '' }[list.audience]
  const kind = [list.kind === 'fixed' ? 'fixed' : '', list.toldBy === 'companies' ? 'companies' : ''].filter(Boolean).join(', ')
  return [
    { says: told?.promise?.past ? `${told.promise.past} past` : '', past: true }, { says: told?.handledToday ? `${told.handledToday} handled today` : '' },
    { says: list.touchEvery && !told?.handledToday ? inWords(list.touchEvery) : '' }, { says: kind }, { says: seen },
  ].filter(one => one.says)
}
defineExpose({ recount: (id: string) => count(id), recountAll: () => props.lists.forEach(list => void count(list.id)), counts })
</script>

<template>
  <nav class="strip" aria-label="Lists">
    <button class="plain one" :class="{ on: chosen === null }" @click="emit('choose', null)"><span>Everyone</span></button>
    <VueDraggable v-model="shown" :animation="120" :disabled="!session.manages" handle=".one" @end="order(shown.map(list => list.id))">
      <button v-for="(list, index) in shown" :key="list.id" class="plain one" :class="{ on: chosen === list.id, broken: list.problems.length }" :title="session.manages ? 'Drag, or Alt with the arrows, to change the order' : undefined" :aria-current="chosen === list.id || undefined" @click="emit('choose', list.id)" @keydown.alt.up.prevent="step(index, -1)" @keydown.alt.down.prevent="step(index, 1)">
        <span class="cut">{{ list.name }}</span><span class="num count">{{ list.problems.length ? 'broken' : said(list.id) }}</span>
        <small v-if="more(list).length" class="dim cut"><template v-for="({ says, past }, place) in more(list)" :key="says">{{ place ? ' · ' : '' }}<span :class="{ past }">{{ says }}</span></template></small>
      </button>
    </VueDraggable>
  </nav>
</template>

<style scoped>
.strip { overflow-y: auto; min-height: 0; padding: 2px 10px 12px 0; border-right: 1px solid var(--line); } .one { display: grid; grid-template-columns: minmax(0, 1fr) auto; gap: 0 8px; width: 100%; padding: 5px 9px; border-radius: 6px; } .one:hover { background: var(--card); } .one.on { background: var(--pine-soft); font-weight: 600; }
.one small { grid-column: 1 / -1; font-weight: 400; line-height: 1.3; } .one small:empty { display: none; } .count { color: var(--dim); font-weight: 500; } .past { color: var(--clay-deep); } .broken .count { color: var(--clay-deep); }
</style>

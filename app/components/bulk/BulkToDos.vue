<script setup lang="ts">
import { ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { bulkToDos, type getBulk } from '#shared/api/bulk'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** The to-dos that were planned, per owner, and what became of them; an owner opens onto theirs. */
type ByOwner = z.output<typeof getBulk.response>['toDos']
type ToDos = z.output<typeof bulkToDos.response>
const props = defineProps<{ id: string; toDos: ByOwner }>()
const times = useTimes()
const notices = useNotices()
const open = ref<string | null>(null)
const shown = shallowRef<ToDos | null>(null)
async function show(ownerId: string | null): Promise<void> {
  const key = ownerId ?? 'nobody'
  open.value = open.value === key ? null : key
  shown.value = null
  if (!open.value) return
  try {
    const found = await call(bulkToDos, { params: { id: props.id }, query: ownerId ? { ownerId } : {} })
    if (open.value === key) shown.value = found
  } catch (error) {
    notices.error(error)
  }
}
function becameOf(toDo: ToDos['toDos'][number]): string {
  if (toDo.status === 'open') return `${toDo.overdue ? 'Overdue since' : 'Due'} ${times.moment(toDo.dueAt)}`
  const at = toDo.doneAt === null ? '' : `, ${times.moment(toDo.doneAt)}`
  return (toDo.status === 'done' ? (toDo.outcome ?? 'Done') : 'Canceled') + at
}
</script>

<template>
  <table v-if="toDos.length" class="sheet">
    <thead>
      <tr>
        <th>Owner</th>
        <th class="right">Made</th>
        <th class="right">Done</th>
        <th class="right">Open</th>
        <th class="right">Overdue</th>
        <th class="right">Canceled</th>
        <th />
      </tr>
    </thead>
    <tbody v-for="one in toDos" :key="one.ownerId ?? ''">
      <tr>
        <td>{{ one.owner ?? 'Nobody' }}</td>
        <td class="num right">{{ one.made.toLocaleString('en-US') }}</td>
        <td class="num right">{{ one.done.toLocaleString('en-US') }}</td>
        <td class="num right">{{ one.open.toLocaleString('en-US') }}</td>
        <td class="num right" :class="{ clay: one.overdue }">{{ one.overdue.toLocaleString('en-US') }}</td>
        <td class="num right">{{ one.cancelled.toLocaleString('en-US') }}</td>
        <td class="right">
          <button
            type="button"
            class="link small"
            :aria-expanded="open === (one.ownerId ?? 'nobody')"
            :aria-label="`To-dos of ${one.owner ?? 'nobody'}`"
            @click="show(one.ownerId)"
          >
            {{ open === (one.ownerId ?? 'nobody') ? 'Close' : 'Show' }}
          </button>
        </td>
      </tr>
      <tr v-if="open === (one.ownerId ?? 'nobody') && shown">
        <td colspan="7" class="theirs">
          <p v-for="toDo in shown.toDos" :key="toDo.id" class="small">
            <NuxtLink :to="`/prospects/${toDo.prospectId}`">{{ toDo.name }}</NuxtLink>
            <span class="dim">{{ toDo.company ? `, ${toDo.company}` : '' }} · </span>
            <span class="num" :class="toDo.overdue ? 'clay' : 'dim'">{{ becameOf(toDo) }}</span>
          </p>
          <p v-if="shown.count > shown.toDos.length" class="dim small">
            And {{ (shown.count - shown.toDos.length).toLocaleString('en-US') }} more.
          </p>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.right {
  text-align: right;
}
.clay {
  color: var(--clay-deep);
}
.theirs {
  padding: 6px 12px 12px;
}
</style>

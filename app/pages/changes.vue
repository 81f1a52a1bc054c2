<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { onMounted, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { forReading } from '#core/filter/sentence'
import { getBulk, listBulk, undoBulk } from '#shared/api/bulk'
import { newId } from '#shared/newId'
import { bulkInWords } from '~/components/bulk/bulkWords'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/**
 * Every bulk action with its result: what it was, whom it changed, whom it skipped and why; each can be undone as a
 * whole.
 */
const times = useTimes()
const notices = useNotices()
type BulkRow = z.output<typeof listBulk.response>['changes'][number]
const changes = shallowRef<BulkRow[] | null>(null)
const open = ref<string | null>(null)
const result = shallowRef<z.output<typeof getBulk.response> | null>(null)
/** The one that is asked about before it is undone. */
const asked = shallowRef<BulkRow | null>(null)
async function read(): Promise<void> {
  stop()
  changes.value = (await call(listBulk)).changes
  // What is still at work is looked at again, until it is done.
  if (changes.value.some((change) => change.status !== 'done')) start()
}
const { start, stop } = useTimeoutFn(() => read().catch(notices.error), 1_500, { immediate: false })
onMounted(() => read().catch(notices.error))
async function show(id: string): Promise<void> {
  open.value = open.value === id ? null : id
  result.value = null
  if (open.value) {
    result.value = await call(getBulk, { params: { id } }).catch((error) => {
      notices.error(error)
      return null
    })
  }
}
async function undo(change: BulkRow): Promise<void> {
  asked.value = null
  try {
    await call(undoBulk, { params: { id: change.id }, body: { id: newId() } })
    notices.say('The undo has started. You can leave this page.')
  } catch (error) {
    notices.error(error)
  }
  await read().catch(notices.error)
}
const mayUndo = (change: BulkRow) =>
  change.status === 'done' && change.done > 0 && !change.undone && change.action.type !== 'undo'
const inFigures = (count: number) => count.toLocaleString('en-US')
const people = (count: number) => `${inFigures(count)} ${count === 1 ? 'person' : 'people'}`
</script>

<template>
  <div class="page narrow">
    <p class="dim small back"><NuxtLink to="/prospects">Prospects</NuxtLink></p>
    <h1 class="mb-1">Bulk actions</h1>
    <p class="dim mb-4">
      Each with its result: who was changed, who was skipped and why. Undo restores everyone, except those changed
      since.
    </p>
    <p v-if="changes && !changes.length" class="panel">
      No bulk action yet. Select people in a list, then choose “Change”.
    </p>
    <div v-else-if="changes" class="scroll">
      <table class="sheet">
        <thead>
          <tr>
            <th>What</th>
            <th>For</th>
            <th>By</th>
            <th>When</th>
            <th class="right">Changed</th>
            <th />
          </tr>
        </thead>
        <tbody v-for="change in changes" :key="change.id">
          <tr>
            <td>{{ bulkInWords(change) }} <span v-if="change.undone" class="chip">undone</span></td>
            <td class="dim about">{{ forReading(change.about) }}</td>
            <td class="dim">{{ change.by }}</td>
            <td class="num dim">{{ times.moment(change.at) }}</td>
            <td class="num right">
              {{
                change.status === 'done'
                  ? inFigures(change.done)
                  : `${inFigures(change.done)} of ${inFigures(change.touches)}`
              }}
            </td>
            <td class="right acts">
              <button
                v-if="mayUndo(change)"
                class="link small"
                :aria-label="`Undo “${bulkInWords(change)}”, ${times.moment(change.at)}`"
                @click="asked = change"
              >
                Undo
              </button>
              <button
                class="link small"
                :aria-expanded="open === change.id"
                :aria-label="`Result of “${bulkInWords(change)}”, ${times.moment(change.at)}`"
                @click="show(change.id)"
              >
                {{ open === change.id ? 'Close' : 'Result' }}
              </button>
            </td>
          </tr>
          <tr v-if="open === change.id && result">
            <td colspan="6">
              <BulkToDos :id="result.id" :to-dos="result.toDos" class="mb-3" />
              <p v-if="!result.leftOut.length" class="dim">Nobody was skipped.</p>
              <LeftOut :left-out="result.leftOut" />
              <template v-if="result.unchanged.length"
                ><p class="mt-2">Undone, except for this:</p>
                <LeftOut :left-out="result.unchanged" unchanged
              /></template>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <v-dialog
      :model-value="asked !== null"
      max-width="440"
      aria-label="Undo a bulk action"
      @update:model-value="asked = null"
    >
      <v-card v-if="asked" class="pa-5">
        <h2>Undo “{{ bulkInWords(asked) }}” for {{ people(asked.done) }}?</h2>
        <p class="dim my-3">
          {{
            asked.action.type === 'email'
              ? 'Email that has not gone out is canceled. What was sent stays sent.'
              : 'Everyone is restored. Those changed since stay as they are; the result names them.'
          }}
        </p>
        <FormFooter action="Undo" @act="undo(asked)" @cancel="asked = null" />
      </v-card>
    </v-dialog>
  </div>
</template>

<style scoped>
.narrow {
  max-width: 900px;
}
.scroll {
  overflow-x: auto;
}
.right {
  text-align: right;
}
.about {
  max-width: 240px;
  overflow-wrap: anywhere;
}
.acts {
  white-space: nowrap;
}
.acts button {
  min-height: 24px;
  padding: 0 4px;
}
</style>

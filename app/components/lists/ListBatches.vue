<script setup lang="ts">
import { ref, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import { listBatches as listBatches, previewRefresh, refreshBatch as refreshBatch } from '#shared/api/lists'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** How a fixed list came about; a batch can be added again, after seeing who would come and who would go. */
const props = defineProps<{ listId: string; mayEdit: boolean }>()
const emit = defineEmits<{ changed: [] }>()
const times = useTimes()
const notices = useNotices()
const batches = shallowRef<z.output<typeof listBatches.response>['batches']>([])
/** How many were put on it by an outcome. */
const byOutcomes = ref(0)
const looked = shallowRef<(z.output<typeof previewRefresh.response> & { id: string }) | null>(null)
const open = ref(false)

async function read(): Promise<void> {
  const answer = await call(listBatches, { params: { id: props.listId } })
  batches.value = answer.batches
  byOutcomes.value = answer.byOutcomes
}
watch(
  () => props.listId,
  () => {
    open.value = false
    looked.value = null
    read().catch(notices.error)
  },
  { immediate: true },
)
async function look(batch: string): Promise<void> {
  try {
    looked.value = { id: batch, ...(await call(previewRefresh, { params: { id: props.listId, batch } })) }
  } catch (error) {
    notices.error(error)
  }
}
async function refresh(batch: string): Promise<void> {
  try {
    const { came, went } = await call(refreshBatch, { params: { id: props.listId, batch } })
    notices.say(`${came} added, ${went} removed.`)
    looked.value = null
    await read()
    emit('changed')
  } catch (error) {
    notices.error(error)
  }
}
const few = (people: readonly { name: string }[], all: number) =>
  people
    .slice(0, 6)
    .map((person) => person.name)
    .join(', ') + (all > 6 ? ` and ${all - 6} more` : '')
function toggle(): void {
  open.value = !open.value
  void read()
}
</script>

<template>
  <div class="dim">
    A fixed list, built in {{ batches.length }} {{ batches.length === 1 ? 'batch' : 'batches' }}
    <button class="link small" :aria-expanded="open" @click="toggle()">
      {{ open ? 'Hide them' : 'Show them' }}
    </button>
    <ol v-if="open" class="batches">
      <li v-for="batch in batches" :key="batch.id">
        <span class="num small">{{ times.moment(batch.at) }}</span>
        <span>{{ batch.sentence ?? 'added by hand' }}</span>
        <span class="small"
          >{{ batch.count }} added{{ batch.still === batch.count ? '' : `, ${batch.still} still on it`
          }}{{ batch.by ? ` · ${batch.by}` : '' }}</span
        >
        <button
          v-if="batch.sentence && mayEdit && looked?.id !== batch.id"
          class="link small ml-2"
          @click="look(batch.id)"
        >
          Rebuild …
        </button>
        <div v-if="looked?.id === batch.id" class="panel ink" role="status">
          <p v-if="!looked.comes && !looked.goes">
            No change. <button class="link small" @click="looked = null">Done</button>
          </p>
          <template v-else
            ><p>
              <b>{{ looked.comes }} would be added</b
              ><template v-if="looked.comes">: {{ few(looked.come, looked.comes) }}</template>
            </p>
            <p>
              <b>{{ looked.goes }} would be removed</b
              ><template v-if="looked.goes">: {{ few(looked.go, looked.goes) }}</template>
            </p>
            <div class="row mt-2">
              <v-btn size="small" color="primary" @click="refresh(batch.id)">Refresh</v-btn
              ><button class="link small" @click="looked = null">Cancel</button>
            </div></template
          >
        </div>
      </li>
      <li v-if="byOutcomes">{{ byOutcomes }} added by outcomes</li>
    </ol>
  </div>
</template>

<style scoped>
.batches {
  margin: 4px 0 2px;
  padding-left: 18px;
  max-height: 30vh;
  overflow-y: auto;
}
.batches li {
  padding: 2px 0;
}
.ink {
  color: var(--ink);
  margin: 4px 0;
}
</style>

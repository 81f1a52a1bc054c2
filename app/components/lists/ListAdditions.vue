<script setup lang="ts">
import { ref, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import { listAdditions, previewRefresh, refreshAddition } from '#shared/api/lists'
import { call } from '~/composables/api'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** How a fixed list came about; an addition can be made anew, after seeing who would come and who would go. */
const props = defineProps<{ listId: string; mayEdit: boolean }>()
const emit = defineEmits<{ changed: [] }>()
const times = useTimes()
const notices = useNotices()
const additions = shallowRef<z.output<typeof listAdditions.response>['additions']>([])
const looked = shallowRef<(z.output<typeof previewRefresh.response> & { id: string }) | null>(null)
const open = ref(false)

async function read(): Promise<void> {
  additions.value = (await call(listAdditions, { params: { id: props.listId } })).additions
}
watch(
  () => props.listId,
  () => {
    open.value = false
    looked.value = null
    read().catch(notices.wrong)
  },
  { immediate: true },
)
async function look(addition: string): Promise<void> {
  try {
    looked.value = { id: addition, ...(await call(previewRefresh, { params: { id: props.listId, addition } })) }
  } catch (error) {
    notices.wrong(error)
  }
}
async function refresh(addition: string): Promise<void> {
  try {
    const { came, went } = await call(refreshAddition, { params: { id: props.listId, addition } })
    notices.say(`${came} came, ${went} went.`)
    looked.value = null
    await read()
    emit('changed')
  } catch (error) {
    notices.wrong(error)
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
    A fixed list, built in {{ additions.length }} {{ additions.length === 1 ? 'addition' : 'additions' }}
    <button class="link small" :aria-expanded="open" @click="toggle()">
      {{ open ? 'Hide them' : 'Show them' }}
    </button>
    <ol v-if="open" class="additions">
      <li v-for="addition in additions" :key="addition.id">
        <span class="num small">{{ times.moment(addition.at) }}</span>
        <span>{{ addition.sentence ?? 'put on by hand' }}</span>
        <span class="small"
          >{{ addition.count }} came{{ addition.still === addition.count ? '' : `, ${addition.still} still on it`
          }}{{ addition.by ? ` · ${addition.by}` : '' }}</span
        >
        <button
          v-if="addition.sentence && mayEdit && looked?.id !== addition.id"
          class="link small ml-2"
          @click="look(addition.id)"
        >
          Make anew …
        </button>
        <div v-if="looked?.id === addition.id" class="panel ink" role="status">
          <p v-if="!looked.comes && !looked.goes">
            Nobody would come or go. <button class="link small" @click="looked = null">Done</button>
          </p>
          <template v-else
            ><p>
              <b>{{ looked.comes }} would come</b
              ><template v-if="looked.comes">: {{ few(looked.come, looked.comes) }}</template>
            </p>
            <p>
              <b>{{ looked.goes }} would go</b
              ><template v-if="looked.goes">: {{ few(looked.go, looked.goes) }}</template>
            </p>
            <div class="row mt-2">
              <v-btn size="small" color="primary" @click="refresh(addition.id)">Refresh</v-btn
              ><button class="link small" @click="looked = null">Cancel</button>
            </div></template
          >
        </div>
      </li>
    </ol>
  </div>
</template>

<style scoped>
.additions {
  margin: 4px 0 2px;
  padding-left: 18px;
  max-height: 30vh;
  overflow-y: auto;
}
.additions li {
  padding: 2px 0;
}
.ink {
  color: var(--ink);
  margin: 4px 0;
}
</style>

<script setup lang="ts">
import { onMounted, ref, shallowRef } from 'vue'
import {
  companyHistory,
  dealHistory,
  formHistory,
  listHistory,
  undo,
  type RecordEntry,
} from '#shared/api/events/history'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** What was changed of a company, a deal, a list or a form, latest first; what may be undone is undone here. */
const props = withDefaults(
  defineProps<{
    of: 'company' | 'deal' | 'list' | 'form'
    id: string
    title: string
    /** How many are shown before "more". */ shown?: number
  }>(),
  { shown: 6 },
)
const emit = defineEmits<{ changed: [] }>()
const times = useTimes()
const notices = useNotices()
const entries = shallowRef<RecordEntry[] | null>(null)
const all = ref(false)
const HISTORIES = { company: companyHistory, deal: dealHistory, list: listHistory, form: formHistory }

async function read(): Promise<void> {
  entries.value = (await call(HISTORIES[props.of], { params: { id: props.id } })).entries
}
onMounted(() => read().catch(notices.error))

async function takeBack(entry: RecordEntry): Promise<void> {
  try {
    const { unchanged } = await call(undo, { params: { id: entry.id }, body: { id: newId() } })
    await read()
    notices.say(['Undone.', ...unchanged].join(' '))
    emit('changed')
  } catch (error) {
    notices.error(error)
  }
}
</script>

<template>
  <section class="changes">
    <h3>{{ title }}</h3>
    <p v-if="entries && !entries.length" class="dim">Nothing has been changed yet.</p>
    <ol>
      <li v-for="entry in entries?.slice(0, all ? undefined : shown) ?? []" :key="entry.id">
        <span class="num dim small">{{ times.moment(entry.at) }}</span>
        <div :class="{ undone: entry.undone }">
          <b>{{ entry.title }}</b> <span v-if="entry.by" class="dim">{{ entry.by }}</span>
          <template v-if="entry.person && of === 'company'">
            · <NuxtLink :to="`/prospects/${entry.person.id}`">{{ entry.person.name }}</NuxtLink></template
          >
          <span v-if="entry.undone" class="chip">undone</span>
          <p v-if="entry.body" class="body">{{ entry.body }}</p>
        </div>
        <button v-if="entry.canUndo" class="link small" type="button" @click="takeBack(entry)">Undo</button>
      </li>
    </ol>
    <button v-if="!all && (entries?.length ?? 0) > shown" class="link small mt-2" type="button" @click="all = true">
      Show {{ entries!.length - shown }} more
    </button>
  </section>
</template>

<style scoped>
.changes {
  container-type: inline-size;
}
ol {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 150px 1fr auto;
  gap: 6px;
  padding: 5px 0;
  border-top: 1px solid var(--line);
  align-items: baseline;
}
/* In a narrow place the moment stands above. */
@container (max-width: 420px) {
  li {
    grid-template-columns: 1fr auto;
    gap: 0 6px;
  }
  li > .num {
    grid-column: 1 / -1;
  }
}
.body {
  white-space: pre-line;
  overflow-wrap: anywhere;
}
.undone .body,
.undone b {
  color: var(--dim);
  text-decoration: line-through;
}
</style>

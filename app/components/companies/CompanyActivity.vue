<script setup lang="ts">
import { onMounted, ref, shallowRef } from 'vue'
import { companyHistory, undo, type CompanyEntry } from '#shared/api/events/history'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** What was changed of a company, latest first: by hand, by files, by what came of calls and emails there. */
const props = defineProps<{ id: string }>()
const emit = defineEmits<{ changed: [] }>()
const times = useTimes()
const notices = useNotices()
const entries = shallowRef<CompanyEntry[] | null>(null)
const all = ref(false)
const SHOWN = 6

async function read(): Promise<void> {
  entries.value = (await call(companyHistory, { params: { id: props.id } })).entries
}
onMounted(() => read().catch(notices.error))

async function takeBack(entry: CompanyEntry): Promise<void> {
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
  <section class="panel mt-4">
    <h3>Changes of the company</h3>
    <p v-if="entries && !entries.length" class="dim">Nothing has been changed yet.</p>
    <ol>
      <li v-for="entry in entries?.slice(0, all ? undefined : SHOWN) ?? []" :key="entry.id">
        <span class="num dim small">{{ times.moment(entry.at) }}</span>
        <div :class="{ undone: entry.undone }">
          <b>{{ entry.title }}</b> <span v-if="entry.by" class="dim">{{ entry.by }}</span>
          <template v-if="entry.person">
            · <NuxtLink :to="`/prospects/${entry.person.id}`">{{ entry.person.name }}</NuxtLink></template
          >
          <span v-if="entry.undone" class="chip">undone</span>
          <p v-if="entry.body" class="body">{{ entry.body }}</p>
        </div>
        <button v-if="entry.canUndo" class="link small" @click="takeBack(entry)">Undo</button>
      </li>
    </ol>
    <button v-if="!all && (entries?.length ?? 0) > SHOWN" class="link small mt-2" @click="all = true">
      Show {{ entries!.length - SHOWN }} more
    </button>
  </section>
</template>

<style scoped>
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
.body {
  white-space: pre-line;
}
.undone .body,
.undone b {
  color: var(--dim);
  text-decoration: line-through;
}
</style>

<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRoute } from '#imports'
import type { OutcomeChoice, OutcomeDetails } from '#shared/api/desk'
import type OutcomePanel from '~/components/desk/OutcomePanel.vue'
import type { ApiError } from '~/composables/api'
import { useKeys } from '~/composables/keys'
import { keyOf, useDesk } from '~/stores/desk'
import { useDrafts } from '~/stores/drafts'
import { useSession } from '~/stores/session'

const desk = useDesk()
const session = useSession()
const panel = ref<InstanceType<typeof OutcomePanel> | null>(null)
const line = ref<{ ring(): Promise<void>, end(): Promise<void> } | null>(null)
const person = ref<{ stamp(): Promise<void> } | null>(null)
const drafts = useDrafts()
const note = drafts.draft('note', () => desk.item?.prospectId ?? '')
const phoneId = ref<string | null>(null)
const wrong = ref<ApiError | null>(null)
/** A key that is struck twice must not log the next person too: for a moment after a change of person, outcome keys rest. */
let restUntil = 0

const byPhone = computed(() => !['task', 'check_mail', 'meeting_result'].includes(desk.brief?.task?.kind ?? ''))
watch(() => desk.item && keyOf(desk.item), () => {
  wrong.value = null
  restUntil = performance.now() + 350
})
async function log(outcome: OutcomeChoice, details: OutcomeDetails): Promise<void> {
  const item = desk.item
  if (!item) return
  const kept = panel.value?.snapshot()
  const said = [note.value, details.note ?? ''].map(text => text.trim()).filter(Boolean).join('\n')
  const failed = await desk.log(item, outcome, { ...details, ...(said && { note: said }) }, phoneId.value)
  if (failed) {
    await nextTick()
    if (kept) panel.value?.restore(kept)
    wrong.value = failed
  }
}
const route = useRoute()
const read = () => { void desk.refresh() }
watch(() => route.query.list, id => void desk.work(typeof id === 'string' ? id : null))
let timer: ReturnType<typeof setInterval>
onMounted(() => {
  void desk.work(typeof route.query.list === 'string' ? route.query.list : null)
  timer = setInterval(() => { if (document.visibilityState === 'visible') read() }, 15_000)
  window.addEventListener('world-moved', read)
})
onBeforeUnmount(() => {
  clearInterval(timer)
  window.removeEventListener('world-moved', read)
})
useKeys([
  ...Array.from({ length: 9 }, (_, index) => ({ key: String(index + 1), says: `Outcome ${index + 1}`, run: () => { if (performance.now() > restUntil) panel.value?.pickKey(index + 1) } })),
  { key: 'c', says: 'Call', run: () => void line.value?.ring() }, { key: 'h', says: 'Hang up', run: () => void line.value?.end() },
  { key: 'n', says: 'Note, with the time', run: () => void person.value?.stamp() }, { key: 'd', says: 'The task is done', run: () => { if (!byPhone.value && desk.item) void desk.finish(desk.item, note.value) } },
  { key: 'j', says: 'Next person', run: () => desk.step(1) }, { key: 'k', says: 'Person before', run: () => desk.step(-1) }, { key: 'z', says: 'Take the last one back', run: () => void desk.undoLast() },
  { key: 'Escape', says: 'Leave what is open', always: true, run: () => { panel.value?.close(); (document.activeElement as HTMLElement | null)?.blur() } },
])
</script>

<template>
  <div class="desk">
    <DayRidge v-if="desk.day && desk.queue" :day="desk.day" :now="session.now">
      {{ desk.day.callableNow }} {{ desk.day.callableNow === 1 ? 'person' : 'people' }} to reach now<template v-if="desk.queue.opensNext">, {{ desk.queue.opensNext.count }} more soon</template>
    </DayRidge>
    <p v-if="desk.trouble" class="notice clay ma-3" role="alert">{{ desk.trouble }} <button class="link" @click="read">Try again</button></p>
    <div v-if="desk.item" class="work">
      <QueueList class="route" />
      <PersonBrief v-if="desk.brief" ref="person" v-model:note="note" :brief="desk.brief" :urgent="desk.item.group === 'answer'" @changed="desk.fetchBrief(desk.item!, true)" @sent="desk.letGo(desk.item!); read()" @settled="desk.letGo(desk.item!); read()" />
      <div v-else class="person dim pa-5">Fetching {{ desk.item.name }} …</div>
      <aside class="out" aria-label="Outcomes">
        <template v-if="desk.brief">
          <CallLine ref="line" :brief="desk.brief" @phone="phoneId = $event" />
          <div v-if="!byPhone" class="mb-3"><v-btn color="primary" block @click="desk.finish(desk.item!, note)">Done <kbd class="ml-2">D</kbd></v-btn><p class="dim small mt-3">Or, if you spoke to {{ desk.brief.prospect.firstName }}:</p></div>
          <OutcomePanel ref="panel" :brief="desk.brief" :wrong="wrong" @log="log" />
          <p v-if="desk.lastDone" class="dim small back"><button class="link" @click="desk.undoLast">Take back: {{ desk.lastDone.name }}</button> <kbd>Z</kbd></p>
        </template>
      </aside>
    </div>
    <section v-else-if="desk.queue" class="empty">
      <h1>{{ desk.queue.list ? `“${desk.queue.list.name}” is worked off for now.` : 'Nothing is due.' }}</h1>
      <p v-if="desk.queue.list" class="dim">{{ desk.queue.counts.later ? `${desk.queue.counts.later} on it cannot be rung at this hour where they are.` : 'Nobody on it is left for today.' }} <NuxtLink to="/">All that is due</NuxtLink></p>
      <p v-else-if="desk.queue.opensNext" class="dim">The next {{ desk.queue.opensNext.count === 1 ? 'person opens' : `${desk.queue.opensNext.count} people open` }} later today.</p>
      <p v-else class="dim">Put people into a cadence and their steps turn up here when they fall due.</p>
      <div class="row mt-4"><v-btn color="primary" to="/prospects">Choose people to work</v-btn><v-btn variant="outlined" to="/imports">Bring in a file</v-btn></div>
    </section>
  </div>
</template>

<style scoped>
.desk { display: flex; flex-direction: column; height: calc(100vh - 46px); }
.work { flex: 1; min-height: 0; display: grid; grid-template-columns: 292px minmax(0, 1fr) 306px; }
.route { border-right: 1px solid var(--line); } .out { border-left: 1px solid var(--line); padding: 10px 12px 24px; background: var(--shade); overflow-y: auto; }
.back { position: sticky; bottom: -24px; margin: 8px -12px -24px; padding: 7px 12px 9px; background: var(--shade); border-top: 1px solid var(--line); }
.empty { margin: 12vh auto; max-width: 520px; padding: 0 20px; }
@media (max-width: 760px) { .desk { height: auto; } .work { grid-template-columns: 1fr; } .route { max-height: 34vh; border-right: 0; border-bottom: 1px solid var(--line); } .out { border-left: 0; } }
</style>

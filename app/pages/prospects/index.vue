<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { navigateTo, useRoute } from '#imports'
import { listProspects, stages as readStages, type ProspectRow } from '#shared/api/prospects'
import { listCadences } from '#shared/api/cadences'
import { listUsers } from '#shared/api/settings'
import { ApiError, call } from '~/composables/api'
import { useTimes } from '~/composables/times'
import { useSession } from '~/stores/session'

const route = useRoute()
const times = useTimes()
const session = useSession()
const rows = shallowRef<ProspectRow[]>([])
const next = ref<string | null>(null)
const total = ref<number | null>(null)
const busy = ref(false)
const trouble = ref('')
const stages = ref<{ id: string, name: string }[]>([])
const owners = ref<{ id: string, name: string }[]>([])
const cadences = ref<{ id: string, name: string }[]>([])
const picked = ref(new Set<string>())
const enrolling = ref(false)
const query = computed(() => ({
  search: (route.query.search as string | undefined) ?? '', stage: route.query.stage as string | undefined, import: route.query.import as string | undefined, owner: route.query.owner as string | undefined, cadence: route.query.cadence as string | undefined,
}))
const search = ref(query.value.search)
const filtered = computed(() => Object.values(query.value).some(Boolean))
let asked: AbortController | null = null

async function read(more = false): Promise<void> {
  asked?.abort()
  asked = new AbortController()
  busy.value = true
  try {
    const page = await call(listProspects, { query: { ...query.value, search: query.value.search || undefined, ...(more && next.value && { after: next.value }), limit: 200 }, signal: asked.signal })
    rows.value = more ? [...rows.value, ...page.prospects] : page.prospects
    next.value = page.next
    total.value = page.total
    trouble.value = ''
  }
  catch (error) {
    if ((error as Error).name === 'AbortError') return
    trouble.value = error instanceof ApiError ? error.message : 'The people could not be read'
  }
  busy.value = false
}
function narrow(change: Record<string, string | undefined>): void {
  const merged = Object.fromEntries(Object.entries({ ...route.query, ...change }).filter(([, value]) => value))
  void navigateTo({ query: merged }, { replace: true })
}
watch(query, () => {
  picked.value = new Set()
  void read()
})
let typing: ReturnType<typeof setTimeout>
watch(search, (text) => {
  clearTimeout(typing)
  typing = setTimeout(() => narrow({ search: text.trim() || undefined }), 200)
})
onMounted(async () => {
  void read()
  const none = () => []
  ;[stages.value, owners.value, cadences.value] = await Promise.all([
    call(readStages).then(answer => answer.stages, none), call(listUsers).then(answer => answer.users, none), call(listCadences).then(answer => answer.cadences, none),
  ])
})
function pick(id: string): void {
  const now = new Set(picked.value)
  if (!now.delete(id)) now.add(id)
  picked.value = now
}
const allPicked = computed(() => rows.value.length > 0 && rows.value.every(row => picked.value.has(row.id)))
function pickAll(): void {
  picked.value = allPicked.value ? new Set() : new Set(rows.value.map(row => row.id))
}
const sentence = computed(() => {
  const count = total.value === null ? '' : `${total.value.toLocaleString('en-US')} ${total.value === 1 ? 'person' : 'people'}`
  const parts = [query.value.stage && `in stage ${stages.value.find(stage => stage.id === query.value.stage)?.name ?? '…'}`, query.value.import && 'from one file', query.value.cadence && `in “${cadences.value.find(cadence => cadence.id === query.value.cadence)?.name ?? '…'}”`, query.value.owner && (query.value.owner === 'none' ? 'that nobody owns' : `of ${owners.value.find(user => user.id === query.value.owner)?.name ?? '…'}`), query.value.search && `matching “${query.value.search}”`]
  return [count, ...parts.filter(Boolean)].join(' ')
})
</script>

<template>
  <div class="page">
    <div class="spread mb-3">
      <div><h1>Prospects</h1><p class="dim num" role="status">{{ sentence }} <button v-if="filtered" class="link" @click="search = ''; navigateTo({ query: {} })">Clear every condition</button></p></div>
      <div class="row"><v-btn variant="outlined" to="/imports">Bring in a file</v-btn></div>
    </div>
    <div class="row filters mb-3">
      <v-text-field v-model="search" placeholder="Name, company, address or number" aria-label="Search" clearable class="grow" />
      <v-select :model-value="query.stage ?? null" :items="[{ id: null, name: 'Any stage' }, ...stages]" item-title="name" item-value="id" aria-label="Stage" style="max-width: 200px" @update:model-value="narrow({ stage: $event ?? undefined })" />
      <v-select :model-value="query.owner ?? null" :items="[{ id: null, name: 'Any owner' }, { id: 'none', name: 'Nobody' }, ...owners]" item-title="name" item-value="id" aria-label="Owner" style="max-width: 180px" @update:model-value="narrow({ owner: $event ?? undefined })" />
      <v-select :model-value="query.cadence ?? null" :items="[{ id: null, name: 'Any cadence' }, ...cadences]" item-title="name" item-value="id" aria-label="Cadence" style="max-width: 220px" @update:model-value="narrow({ cadence: $event ?? undefined })" />
    </div>
    <p v-if="trouble" class="notice clay" role="alert">{{ trouble }} <button class="link" @click="read()">Try again</button></p>
    <div v-if="picked.size" class="bulk panel row">
      <b class="num">{{ picked.size }} chosen</b>
      <v-btn color="primary" size="small" @click="enrolling = true">Enroll in a cadence</v-btn>
      <v-btn variant="text" size="small" @click="picked = new Set()">Let go</v-btn>
    </div>
    <v-virtual-scroll v-if="rows.length" :items="rows" :item-height="52" class="table" role="table" aria-label="Prospects">
      <template #default="{ item, index }">
        <div v-if="index === 0" class="line head" role="row">
          <span role="columnheader"><input type="checkbox" :checked="allPicked" aria-label="Choose all that are shown" @change="pickAll"></span>
          <span role="columnheader">Name</span><span role="columnheader" class="wide">Company</span><span role="columnheader">Stage</span><span role="columnheader" class="wide">Last touch</span><span role="columnheader">Next</span><span role="columnheader" class="wide">Owner</span>
        </div>
        <div class="line" role="row">
          <span role="cell"><input type="checkbox" :checked="picked.has(item.id)" :aria-label="`Choose ${item.name}`" @change="pick(item.id)"></span>
          <span role="cell" class="two"><NuxtLink :to="`/prospects/${item.id}`" class="cut name">{{ item.name }}</NuxtLink><small class="dim cut">{{ item.title ?? item.email ?? item.phone ?? '' }}<span v-if="item.company" class="narrow"> · {{ item.company.name }}</span></small></span>
          <span role="cell" class="two wide"><NuxtLink v-if="item.company" :to="`/companies/${item.company.id}`" class="cut plainlink">{{ item.company.name }}</NuxtLink><small v-if="item.company && item.company.standing !== 'open'" class="dim">{{ item.company.standing.replaceAll('_', ' ') }}</small></span>
          <span role="cell"><span class="chip" :class="{ open: 'slate', parked: '', won: 'pine', closed: '' }[item.stage.kind]">{{ item.stage.name }}</span></span>
          <span role="cell" class="num dim wide">{{ item.lastTouchAt ? times.ago(item.lastTouchAt) : 'never' }}</span>
          <span role="cell" class="num" :class="{ clay: item.nextAt && item.nextAt < session.now }">{{ item.nextAt ? times.ago(item.nextAt) : '—' }}</span>
          <span role="cell" class="cut dim wide">{{ item.owner?.name ?? 'nobody' }}</span>
        </div>
        <div v-if="index === rows.length - 1 && next" class="pa-3"><v-btn variant="outlined" size="small" :loading="busy" @click="read(true)">Show the next 200</v-btn></div>
      </template>
    </v-virtual-scroll>
    <section v-else-if="!busy && !trouble" class="empty">
      <h2>{{ filtered ? 'Nobody fits these conditions.' : 'There is nobody here yet.' }}</h2>
      <p class="dim mb-3">{{ filtered ? 'Clear them to see everyone again.' : 'Bring in a file of prospects, or add somebody with a name and a number.' }}</p>
      <v-btn v-if="!filtered" color="primary" to="/imports">Bring in a file</v-btn>
    </section>
    <EnrollDialog v-model="enrolling" :prospect-ids="[...picked]" @done="picked = new Set(); read()" />
  </div>
</template>

<style scoped>
.page { display: flex; flex-direction: column; height: calc(100vh - 46px); padding-bottom: 12px; }
.table { flex: 1; border-top: 1px solid var(--line); } .line { display: grid; grid-template-columns: 22px 1.5fr 1.3fr 130px 100px 100px 130px; gap: 12px; align-items: center; min-height: 52px; padding: 4px 8px; border-bottom: 1px solid var(--line); }
.line:hover { background: var(--card); } .head { min-height: 32px; font-size: 12.5px; font-weight: 600; color: var(--dim); position: sticky; top: 0; background: var(--paper); }
.two { display: grid; min-width: 0; } .name { font-weight: 550; text-decoration: none; } .plainlink { text-decoration: none; } .name:hover, .plainlink:hover { text-decoration: underline; } .clay { color: var(--clay-deep); }
.bulk { margin-bottom: 10px; padding: 8px 12px; } .filters { flex-wrap: wrap; } .filters > .grow { flex: 1 1 240px; max-width: 460px; } .empty { margin: 10vh auto; text-align: center; }
.narrow { display: none; }
@media (max-width: 820px) { .line { grid-template-columns: 22px minmax(0, 1fr) auto 76px; } .wide { display: none; } .narrow { display: inline; } }
</style>

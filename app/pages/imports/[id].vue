<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import type { z } from 'zod'
import { useRoute } from '#imports'
import { IMPORT_FIELDS, kindOfFile, type ImportTarget } from '#core/text/columns'
import { listFields } from '#shared/api/fields'
import { checkImport, getImport, listMappings, removeMapping, runImport, saveMapping, type Import } from '#shared/api/imports'
import { listUsers } from '#shared/api/settings'
import { ApiError, call } from '~/composables/api'
import { useSession } from '~/stores/session'

const id = useRoute().params.id as string
const found = ref<Import | null>(null)
const mapping = ref<Record<string, ImportTarget>>({})
const known = ref<Import['knownAction']>('skip')
const session = useSession()
const owner = ref<string | null>(null)
const owners = ref<{ id: string | null, name: string }[]>([])
const remap = ref(false)
const trouble = ref('')
const busy = ref(false)
const enrolling = ref(false)
let timer: ReturnType<typeof setTimeout> | undefined
const own = ref<{ value: string, title: string }[]>([])
const fields = computed(() => [{ value: '', title: 'leave out' }, ...Object.entries(IMPORT_FIELDS).map(([value, title]) => ({ value, title })), ...own.value])
const ownContacts = ref(false)
const kept = ref<z.output<typeof listMappings.response>['mappings']>([])
const keepAs = ref('')
const counts = computed(() => found.value?.counts ?? {})
const show = (count: number | undefined) => (count ?? 0).toLocaleString('en-US')
const mapped = computed(() => Object.values(mapping.value))
const taken = (column: number, field: string) => field !== '' && mapping.value[column] !== field && (mapped.value as string[]).includes(field)
const kind = computed(() => kindOfFile(Object.fromEntries(Object.entries(mapping.value).filter(([, field]) => field))))
const atColumns = computed(() => found.value !== null && (found.value.state === 'uploaded' || remap.value))

function take(told: Import, first = false): void {
  const moved = found.value?.state !== told.state
  found.value = told
  if (first || moved) {
    mapping.value = { ...told.mapping }
    known.value = told.knownAction
    owner.value = told.ownerId
    ownContacts.value = told.ownContacts
  }
  clearTimeout(timer)
  if (told.state === 'checking' || told.state === 'writing') timer = setTimeout(look, 500)
}
async function look(): Promise<void> {
  try {
    take(await call(getImport, { params: { id } }), found.value === null)
    trouble.value = ''
  }
  catch (error) {
    trouble.value = error instanceof ApiError ? error.message : 'This import could not be read'
    timer = setTimeout(look, 3_000)
  }
}
onMounted(() => {
  void look()
  call(listFields).then((answer) => { own.value = answer.fields.filter(field => field.of !== 'deal').map(field => ({ value: `${field.of === 'company' ? 'company:' : ''}custom:${field.id}`, title: `${field.of === 'company' ? 'Company: ' : ''}${field.name} (own field)` })) }, () => {})
  void readKept()
  if (session.manages) call(listUsers).then(({ users }) => { owners.value = [{ id: null, name: 'Nobody yet' }, ...users.filter(user => user.active)] }, () => {})
})
onBeforeUnmount(() => clearTimeout(timer))

async function act(work: (now: Import) => Promise<Import>): Promise<void> {
  if (busy.value) return
  busy.value = true
  trouble.value = ''
  try {
    take(await work(found.value!))
    remap.value = false
  }
  catch (error) {
    if (!(error instanceof ApiError)) throw error
    trouble.value = error.message
    if (error.code === 'conflict') await look()
  }
  busy.value = false
}
const check = () => act(now => call(checkImport, { params: { id }, body: { version: now.version, mapping: Object.fromEntries(Object.entries(mapping.value).filter(([, field]) => field)), knownAction: known.value, ownContacts: ownContacts.value, ...(session.manages && { ownerId: owner.value }) } }))
const run = () => act(now => call(runImport, { params: { id }, body: { version: now.version, knownAction: known.value } }))
async function readKept(): Promise<void> {
  kept.value = await call(listMappings).then(answer => answer.mappings, () => [])
}
/** Reads the columns as a kept way does: each heading goes where it went then. */
function useKept(name: string): void {
  const way = kept.value.find(one => one.name === name)
  if (!way || !found.value) return
  const goes = new Map(way.headings.map((heading, column) => [heading.trim().toLowerCase(), way.mapping[column]]))
  mapping.value = Object.fromEntries(found.value.headings.flatMap((heading, column) => {
    const target = goes.get(heading.trim().toLowerCase())
    return target ? [[column, target]] : []
  }))
}
async function keepWay(): Promise<void> {
  try {
    await call(saveMapping, { body: { name: keepAs.value, headings: found.value!.headings, mapping: mapping.value } })
    keepAs.value = ''
    await readKept()
  }
  catch (error) {
    trouble.value = error instanceof ApiError ? error.message : 'It could not be kept'
  }
}
async function forget(id: string): Promise<void> {
  await call(removeMapping, { params: { id } }).catch(() => {})
  await readKept()
}
function samples(column: number): string {
  const values = (found.value?.samples ?? []).map(row => row[column]).filter(Boolean).slice(0, 4).join(' · ')
  return values.length > 150 ? `${values.slice(0, 150)}…` : values || '—'
}
function set(column: number, field: string): void {
  const now = Object.fromEntries(Object.entries(mapping.value).filter(([at]) => Number(at) !== column)) as Record<string, ImportTarget>
  mapping.value = field ? { ...now, [column]: field as ImportTarget } : now
}
</script>

<template>
  <div class="page">
    <p class="dim small back"><NuxtLink to="/imports">Bring in prospects</NuxtLink></p>
    <h1 v-if="found">{{ found.fileName }}</h1>
    <p v-if="trouble" class="notice clay my-3" role="alert">{{ trouble }}</p>
    <template v-if="found">
      <p class="dim mb-4">{{ found.headings.length }} columns<template v-if="found.dialect"> · {{ found.dialect }}</template></p>
      <p v-if="found.state === 'failed'" class="notice clay" role="alert">{{ found.problem }}</p>

      <section v-if="atColumns">
        <h2 class="mb-1">Where do the columns go?</h2>
        <p class="dim mb-3">Guessed from the headings and the values. One field must hold a name. {{ kind === 'companies' ? 'No column goes to a person: the rows are companies.' : '' }}</p>
        <p v-if="kept.length" class="row wrap mb-3"><span class="dim">Read it as</span><span v-for="way in kept" :key="way.id" class="chip"><button class="plain" @click="useKept(way.name)">{{ way.name }}</button> <button class="plain dim" :aria-label="`Forget ${way.name}`" @click="forget(way.id)">×</button></span></p>
        <div class="scroll">
          <table class="sheet">
            <thead><tr><th>Column</th><th>Goes to</th><th>Values in the file</th></tr></thead>
            <tbody>
              <tr v-for="(heading, column) in found.headings" :key="column">
                <td><b>{{ heading }}</b></td>
                <td><select :value="mapping[column] ?? ''" :aria-label="`Where ${heading} goes`" @change="set(column, ($event.target as HTMLSelectElement).value)"><option v-for="field in fields" :key="field.value" :value="field.value" :disabled="taken(column, field.value)">{{ field.title }}</option></select></td>
                <td class="dim values">{{ samples(column) }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <form class="row mt-3" @submit.prevent="keepWay"><input v-model="keepAs" class="name" maxlength="100" aria-label="Keep this way of reading as" placeholder="Keep this way of reading as …"><v-btn size="small" type="submit" variant="outlined" :disabled="!keepAs.trim() || !mapped.length">Keep</v-btn></form>
        <label v-if="kind !== 'companies'" class="row mt-3"><input v-model="ownContacts" type="checkbox"> These are my own contacts: they do not count as new, and I keep them</label>
        <v-select v-if="session.manages && kind !== 'companies'" v-model="owner" :items="owners" item-value="id" item-title="name" label="Whose they become" class="mt-4" style="max-width: 300px" />
        <div class="row mt-4"><v-btn color="primary" :loading="busy" :disabled="!kind" @click="check">Check every row</v-btn><span class="dim">Nothing is written yet.</span></div>
      </section>

      <section v-else-if="found.state === 'checking' || found.state === 'writing'" role="status">
        <h2>{{ found.state === 'checking' ? 'Checking every row' : 'Bringing them in' }}</h2>
        <v-progress-linear indeterminate color="primary" class="my-3" rounded height="6" />
        <p class="dim num">{{ found.state === 'checking' ? `${show(found.progress)} rows read` : 'All of them or none.' }} You can leave this page; it goes on.</p>
      </section>

      <section v-else-if="found.state === 'checked'">
        <h2 class="mb-3">What would happen</h2>
        <div class="sums">
          <div><strong class="num">{{ show(counts.fresh) }}</strong>new</div>
          <div><strong class="num">{{ show(counts.known) }}</strong>known already<small class="dim">{{ kind === 'companies' ? 'same website, or same name' : 'same address, number, or name at the same company' }}</small></div>
          <div><strong class="num">{{ show(counts.merged) }}</strong>merged<small class="dim">the same {{ kind === 'companies' ? 'company' : 'person' }} twice in the file</small></div>
          <div :class="{ clay: counts.wrong }"><strong class="num">{{ show(counts.wrong) }}</strong>wrong<small v-for="reason in counts.reasons" :key="reason.reason">{{ show(reason.count) }} × {{ reason.reason }}</small><a v-if="counts.wrong" class="link small" :href="`/api/imports/${id}/wrong.csv`" download>Download them with the reason</a></div>
        </div>
        <v-radio-group v-if="counts.known" v-model="known" :label="kind === 'companies' ? 'Companies that are known already' : 'Those who are known already'" class="mt-4">
          <v-radio value="skip" label="Leave them as they are" /><v-radio value="fill" label="Fill in what is empty" /><v-radio value="overwrite" label="Put the file’s values in place" />
        </v-radio-group>
        <div class="row mt-4"><v-btn color="primary" :loading="busy" :disabled="!counts.fresh && (known === 'skip' || !counts.known)" @click="run">Bring in {{ show((counts.fresh ?? 0) + (known === 'skip' ? 0 : counts.known ?? 0)) }}</v-btn><v-btn variant="text" @click="remap = true">Change the columns</v-btn></div>
      </section>

      <section v-else-if="found.state === 'done'">
        <h2 class="mb-3">Done</h2>
        <p class="notice pine"><b class="num">{{ show(counts.added) }}</b> added, {{ show(counts.updated) }} updated, {{ show(counts.skipped) }} left as they were<template v-if="kind !== 'companies'">, {{ show(counts.companies) }} new companies</template>.</p>
        <p v-if="counts.wrong" class="mt-3">{{ show(counts.wrong) }} rows could not be taken. <a class="link" :href="`/api/imports/${id}/wrong.csv`" download>Download them with the reason</a></p>
        <div v-if="kind === 'companies'" class="row mt-4"><v-btn variant="outlined" to="/prospects?by=companies">See the companies</v-btn></div>
        <div v-else class="row mt-4"><v-btn color="primary" :disabled="!counts.added" @click="enrolling = true">Enroll them in a cadence</v-btn><v-btn variant="outlined" :to="`/prospects?import=${id}`">See them</v-btn></div>
        <EnrollDialog v-model="enrolling" :import-id="id" />
      </section>
    </template>
  </div>
</template>

<style scoped>
.page { max-width: 980px; } .wrap { flex-wrap: wrap; } .name { font: inherit; padding: 4px 8px; border: 1px solid var(--stone); border-radius: 6px; background: #fff; width: 260px; } .scroll { overflow: auto; max-height: 60vh; } select { font: inherit; padding: 4px 6px; border: 1px solid var(--stone); border-radius: 6px; background: #fff; min-width: 190px; } .values { max-width: 420px; overflow-wrap: anywhere; }
.sums { display: grid; grid-template-columns: repeat(4, 1fr); gap: 18px; border-top: 1px solid var(--line); border-bottom: 1px solid var(--line); padding: 14px 0; } .sums div { display: grid; align-content: start; } .sums strong { font-size: 26px; line-height: 1.2; } .clay strong { color: var(--clay-deep); }
@media (max-width: 700px) { .sums { grid-template-columns: 1fr 1fr; } }
</style>

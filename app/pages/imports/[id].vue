<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, reactive, ref } from 'vue'
import type { z } from 'zod'
import { useRoute } from '#imports'
import { IMPORT_FIELDS, kindOfFile, type ImportTarget } from '#core/text/columns'
import { listFields } from '#shared/api/fields'
import {
  checkImport,
  getImport,
  listMappings,
  removeMapping,
  runImport,
  saveMapping,
  type Import,
} from '#shared/api/imports'
import { listUsers } from '#shared/api/settings'
import { ApiError, call } from '~/composables/api'
import { useSession } from '~/stores/session'

const id = useRoute().params.id as string
const found = ref<Import | null>(null)
const mapping = ref<Record<string, ImportTarget>>({})
const known = ref<Import['knownAction']>('skip')
const session = useSession()
const owners = ref<{ id: string; name: string }[]>([])
const remap = ref(false)
const trouble = ref('')
const busy = ref(false)
const enrolling = ref(false)
const undoing = ref(false)
let timer: ReturnType<typeof setTimeout> | undefined
const own = ref<{ value: string; title: string }[]>([])
const fields = computed(() => [
  { value: '', title: 'leave out' },
  ...Object.entries(IMPORT_FIELDS).map(([value, title]) => ({ value, title })),
  ...own.value,
  ...(session.manages ? [{ value: NEW_FIELD, title: 'New field …' }] : []),
])
const ownContacts = ref(false)
const NEW_FIELD = 'new'
/** The column that a new custom field is made for. */
const newFieldFor = ref<number | null>(null)
/** What holds for the whole file. */
const whole = reactive({ source: '', tags: '', list: '', keepNames: false })
const dateOrder = ref<Import['dateOrder']>('month')
const ownerIds = ref<string[]>([])
/** Whether a column holds dates: then their order matters. */
const hasDates = computed(() =>
  Object.values(mapping.value).some((field) => field === 'touchAt' || dateFields.value.has(field)),
)
const dateFields = ref(new Set<string>())
const kept = ref<z.output<typeof listMappings.response>['mappings']>([])
const keepAs = ref('')
const counts = computed(() => found.value?.counts ?? {})
const show = (count: number | undefined) => (count ?? 0).toLocaleString('en-US')
const mapped = computed(() => Object.values(mapping.value))
const taken = (column: number, field: string) =>
  field !== '' && mapping.value[column] !== field && (mapped.value as string[]).includes(field)
const kind = computed(() => kindOfFile(Object.fromEntries(Object.entries(mapping.value).filter(([, field]) => field))))
const atColumns = computed(() => found.value !== null && (found.value.state === 'uploaded' || remap.value))

function take(told: Import, first = false): void {
  const moved = found.value?.state !== told.state
  found.value = told
  if (first || moved) {
    mapping.value = { ...told.mapping }
    known.value = told.knownAction
    ownContacts.value = told.ownContacts
    dateOrder.value = told.dateOrder
    const single = told.ownerId ? [told.ownerId] : []
    ownerIds.value = told.ownerIds.length ? told.ownerIds : single
    Object.assign(whole, {
      source: told.whole.source ?? '',
      tags: (told.whole.tags ?? []).join(', '),
      list: told.whole.list ?? '',
      keepNames: told.whole.keepNames ?? false,
    })
  }
  clearTimeout(timer)
  if (told.state === 'checking' || told.state === 'writing') timer = setTimeout(look, 500)
}
async function look(): Promise<void> {
  try {
    take(await call(getImport, { params: { id } }), found.value === null)
    trouble.value = ''
  } catch (error) {
    trouble.value = error instanceof ApiError ? error.message : 'This import could not be read'
    timer = setTimeout(look, 3_000)
  }
}
onMounted(() => {
  void look()
  call(listFields).then(
    (answer) => {
      own.value = answer.fields
        .filter((field) => field.of !== 'deal')
        .map((field) => ({
          value: `${field.of === 'company' ? 'company:' : ''}custom:${field.id}`,
          title: `${field.of === 'company' ? 'Company: ' : ''}${field.name} (custom field)`,
        }))
    },
    () => {},
  )
  call(listFields).then(
    (answer) => {
      dateFields.value = new Set(
        answer.fields
          .filter((field) => field.kind === 'date')
          .map((field) => `${field.of === 'company' ? 'company:' : ''}custom:${field.id}`),
      )
    },
    () => {},
  )
  void readKept()
  if (session.manages) {
    call(listUsers).then(
      ({ users }) => {
        owners.value = users.filter((user) => user.active)
      },
      () => {},
    )
  }
})
onBeforeUnmount(() => clearTimeout(timer))

async function act(work: (now: Import) => Promise<Import>): Promise<void> {
  if (busy.value) return
  busy.value = true
  trouble.value = ''
  try {
    take(await work(found.value!))
    remap.value = false
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    trouble.value = error.message
    if (error.code === 'conflict') await look()
  }
  busy.value = false
}
const check = () =>
  act((now) =>
    call(checkImport, {
      params: { id },
      body: {
        version: now.version,
        mapping: Object.fromEntries(Object.entries(mapping.value).filter(([, field]) => field)),
        knownAction: known.value,
        ownContacts: ownContacts.value,
        dateOrder: dateOrder.value,
        whole: wholeFile(),
        ...(session.manages && { ownerId: ownerIds.value[0] ?? null, ownerIds: ownerIds.value }),
      },
    }),
  )
function wholeFile(): Import['whole'] {
  const tags = whole.tags
    .split(/[,;]/)
    .map((tag) => tag.trim())
    .filter(Boolean)
  return {
    ...(whole.source.trim() && { source: whole.source.trim() }),
    ...(tags.length && { tags }),
    ...(whole.list.trim() && { list: whole.list.trim() }),
    ...(whole.keepNames && { keepNames: true }),
  }
}
const run = () =>
  act((now) => call(runImport, { params: { id }, body: { version: now.version, knownAction: known.value } }))
async function readKept(): Promise<void> {
  kept.value = await call(listMappings).then(
    (answer) => answer.mappings,
    () => [],
  )
}
/** Reads the columns as a kept way does: each heading goes where it went then. */
function useKept(name: string): void {
  const way = kept.value.find((one) => one.name === name)
  if (!way || !found.value) return
  const goes = new Map(way.headings.map((heading, column) => [heading.trim().toLowerCase(), way.mapping[column]]))
  mapping.value = Object.fromEntries(
    found.value.headings.flatMap((heading, column) => {
      const target = goes.get(heading.trim().toLowerCase())
      return target ? [[column, target]] : []
    }),
  )
}
async function keepWay(): Promise<void> {
  try {
    await call(saveMapping, { body: { name: keepAs.value, headings: found.value!.headings, mapping: mapping.value } })
    keepAs.value = ''
    await readKept()
  } catch (error) {
    trouble.value = error instanceof ApiError ? error.message : 'It could not be kept'
  }
}
async function forget(id: string): Promise<void> {
  await call(removeMapping, { params: { id } }).catch(() => {})
  await readKept()
}
function samples(column: number): string {
  const values = (found.value?.samples ?? [])
    .map((row) => row[column])
    .filter(Boolean)
    .slice(0, 4)
    .join(' · ')
  return values.length > 150 ? `${values.slice(0, 150)}…` : values || '—'
}
function choose(column: number, select: HTMLSelectElement): void {
  if (select.value !== NEW_FIELD) return set(column, select.value)
  newFieldFor.value = column
  select.value = mapping.value[column] ?? ''
}
function fieldMade(field: { id: string; of: 'prospect' | 'company'; name: string; kind: string }): void {
  const value = `${field.of === 'company' ? 'company:' : ''}custom:${field.id}`
  own.value = [
    ...own.value,
    { value, title: `${field.of === 'company' ? 'Company: ' : ''}${field.name} (custom field)` },
  ]
  if (field.kind === 'date') dateFields.value = new Set([...dateFields.value, value])
  set(newFieldFor.value!, value)
}
function set(column: number, field: string): void {
  const now = Object.fromEntries(Object.entries(mapping.value).filter(([at]) => Number(at) !== column)) as Record<
    string,
    ImportTarget
  >
  mapping.value = field ? { ...now, [column]: field as ImportTarget } : now
}
</script>

<template>
  <div class="page">
    <p class="dim small back"><NuxtLink to="/imports">Imports</NuxtLink></p>
    <h1 v-if="found">{{ found.fileName }}</h1>
    <p v-if="trouble" class="notice clay my-3" role="alert">{{ trouble }}</p>
    <template v-if="found">
      <p class="dim mb-4">
        {{ found.headings.length }} columns<template v-if="found.dialect"> · {{ found.dialect }}</template>
      </p>
      <p v-if="found.state === 'failed'" class="notice clay" role="alert">{{ found.problem }}</p>

      <section v-if="atColumns">
        <h2 class="mb-1">Map columns</h2>
        <p class="dim mb-3">
          Guessed from the headings and the values. One field must hold a name.
          {{ kind === 'companies' ? 'No column goes to a person: the rows are companies.' : '' }}
        </p>
        <p v-if="kept.length" class="row wrap mb-3">
          <span class="dim">Saved mappings</span
          ><span v-for="way in kept" :key="way.id" class="chip"
            ><button class="plain" @click="useKept(way.name)">{{ way.name }}</button>
            <button class="plain dim" :aria-label="`Delete ${way.name}`" @click="forget(way.id)">×</button></span
          >
        </p>
        <div class="scroll">
          <table class="sheet">
            <thead>
              <tr>
                <th>Column</th>
                <th>Field</th>
                <th>Values in the file</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(heading, column) in found.headings" :key="column">
                <td>
                  <b>{{ heading }}</b>
                </td>
                <td>
                  <select
                    :value="mapping[column] ?? ''"
                    :aria-label="`Where ${heading} goes`"
                    @change="choose(column, $event.target as HTMLSelectElement)"
                  >
                    <option
                      v-for="field in fields"
                      :key="field.value"
                      :value="field.value"
                      :disabled="taken(column, field.value)"
                    >
                      {{ field.title }}
                    </option>
                  </select>
                </td>
                <td class="dim values">{{ samples(column) }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <NewImportField
          :model-value="newFieldFor !== null"
          :heading="found.headings[newFieldFor ?? 0] ?? ''"
          :samples="found.samples.map((row) => row[newFieldFor ?? 0] ?? '')"
          :of-companies="kind === 'companies'"
          @made="fieldMade"
          @update:model-value="newFieldFor = $event ? newFieldFor : null"
        />
        <form class="row mt-3" @submit.prevent="keepWay">
          <input
            v-model="keepAs"
            class="name"
            maxlength="100"
            aria-label="Save this mapping as"
            placeholder="Save this mapping as …"
          /><v-btn size="small" type="submit" variant="outlined" :disabled="!keepAs.trim() || !mapped.length"
            >Save</v-btn
          >
        </form>
        <label v-if="kind !== 'companies'" class="row mt-3"
          ><input v-model="ownContacts" type="checkbox" /> These are my own contacts: they do not count as new, and I
          keep them</label
        >
        <label v-if="kind !== 'companies'" class="row mt-3"
          ><input v-model="whole.keepNames" type="checkbox" /> Leave names as written (otherwise “Dr. COLIN PRYCE” comes
          in as “Colin Pryce”)</label
        >
        <label v-if="hasDates" class="row mt-3"
          >Dates like 1/5/2026 are
          <select v-model="dateOrder" aria-label="Order of dates">
            <option value="month">January 5 (month first)</option>
            <option value="day">May 1 (day first)</option>
          </select></label
        >
        <fieldset v-if="kind !== 'companies'" class="whole mt-4">
          <legend>For the whole file (optional)</legend>
          <v-text-field v-model="whole.source" label="Source" maxlength="300" /><v-text-field
            v-model="whole.tags"
            label="Tags, with commas"
          /><v-text-field v-model="whole.list" label="Fixed list" maxlength="100" />
          <v-select
            v-if="session.manages"
            v-model="ownerIds"
            :items="owners"
            item-value="id"
            item-title="name"
            label="Owners, in turn"
            multiple
            hint="Companies stay together. Nobody chosen: no owner yet"
            persistent-hint
          />
        </fieldset>
        <div class="row mt-4">
          <v-btn color="primary" :loading="busy" :disabled="!kind" @click="check">Validate</v-btn
          ><span class="dim">Nothing is written yet.</span>
        </div>
      </section>

      <section v-else-if="found.state === 'checking' || found.state === 'writing'" role="status">
        <h2>{{ found.state === 'checking' ? 'Checking every row' : 'Importing' }}</h2>
        <v-progress-linear indeterminate color="primary" class="my-3" rounded height="6" />
        <p class="dim num">
          {{ found.state === 'checking' ? `${show(found.progress)} rows read` : 'All of them or none.' }} You can leave
          this page; it goes on.
        </p>
      </section>

      <section v-else-if="found.state === 'checked'">
        <h2 class="mb-3">Review</h2>
        <div class="sums">
          <div>
            <strong class="num">{{ show(counts.fresh) }}</strong>new
          </div>
          <div>
            <strong class="num">{{ show(counts.known) }}</strong>existing<small class="dim">{{
              kind === 'companies' ? 'same website, or same name' : 'same address, number, or name at the same company'
            }}</small>
          </div>
          <div>
            <strong class="num">{{ show(counts.merged) }}</strong>merged<small class="dim"
              >the same {{ kind === 'companies' ? 'company' : 'person' }} twice in the file</small
            >
          </div>
          <div :class="{ clay: counts.wrong }">
            <strong class="num">{{ show(counts.wrong) }}</strong>invalid<small
              v-for="reason in counts.reasons"
              :key="reason.reason"
              >{{ show(reason.count) }} × {{ reason.reason }}</small
            ><a v-if="counts.wrong" class="link small" :href="`/api/imports/${id}/wrong.csv`" download
              >Download them with the reason</a
            >
          </div>
        </div>
        <div v-if="counts.dropped" class="notice mt-3">
          <b class="num">{{ show(counts.dropped) }}</b> {{ counts.dropped === 1 ? 'row is' : 'rows are' }} taken without
          a cell that could not be read:
          <span v-for="(reason, index) in counts.droppedReasons" :key="reason.reason"
            >{{ index ? ', ' : '' }}{{ show(reason.count) }} × {{ reason.reason }}</span
          >. <a class="link" :href="`/api/imports/${id}/wrong.csv`" download>Download them</a>
        </div>
        <p v-if="counts.renamed" class="notice pine mt-3">
          <b class="num">{{ show(counts.renamed) }}</b> {{ counts.renamed === 1 ? 'name is' : 'names are' }} cleaned up,
          so that emails can greet people by name:
          <span v-for="(one, index) in counts.renames" :key="one.was"
            >{{ index ? '; ' : '' }}{{ one.was }} → <b>{{ one.is }}</b></span
          >{{
            (counts.renamed ?? 0) > (counts.renames?.length ?? 0)
              ? `; and ${show((counts.renamed ?? 0) - (counts.renames?.length ?? 0))} more`
              : ''
          }}. The file’s version stays in the activity. To keep names as written, go back to the columns.
        </p>
        <p v-if="counts.news?.length" class="notice mt-3">
          Also adds
          <span v-for="(one, index) in counts.news" :key="one.kind"
            >{{ index ? '; ' : '' }}<b class="num">{{ show(one.count) }}</b> new {{ one.kind
            }}{{ one.count === 1 ? '' : 's' }}: {{ one.names.join(', ')
            }}{{ one.count > one.names.length ? ', …' : '' }}</span
          >. If one is a misspelling, change the file or the columns first.
        </p>
        <v-radio-group
          v-if="counts.known"
          v-model="known"
          :label="kind === 'companies' ? 'Existing companies' : 'Existing prospects'"
          class="mt-4"
        >
          <v-radio value="skip" label="Skip" /><v-radio value="fill" label="Fill blanks only" /><v-radio
            value="overwrite"
            label="Overwrite"
          />
        </v-radio-group>
        <div class="row mt-4">
          <v-btn
            color="primary"
            :loading="busy"
            :disabled="!counts.fresh && (known === 'skip' || !counts.known)"
            @click="run"
            >Import {{ show((counts.fresh ?? 0) + (known === 'skip' ? 0 : (counts.known ?? 0))) }}</v-btn
          ><v-btn variant="text" @click="remap = true">Change the columns</v-btn>
        </div>
      </section>

      <section v-else-if="found.state === 'done'">
        <h2 class="mb-3">Done</h2>
        <p class="notice pine">
          <b class="num">{{ show(counts.added) }}</b> added, {{ show(counts.updated) }} updated,
          {{ show(counts.skipped) }} left as they were<template v-if="kind !== 'companies'"
            >, {{ show(counts.companies) }} new {{ counts.companies === 1 ? 'company' : 'companies' }}</template
          >.
        </p>
        <p v-if="counts.wrong" class="mt-3">
          {{ show(counts.wrong) }} rows could not be taken.
          <a class="link" :href="`/api/imports/${id}/wrong.csv`" download>Download them with the reason</a>
        </p>
        <div v-if="kind === 'companies'" class="row mt-4">
          <v-btn variant="outlined" to="/prospects?by=companies">See the companies</v-btn>
        </div>
        <div v-else class="row mt-4">
          <v-btn color="primary" :disabled="!counts.added" @click="enrolling = true">Enroll them in a cadence</v-btn
          ><v-btn variant="outlined" :to="`/prospects?import=${id}`">See them</v-btn
          ><v-btn v-if="session.manages && counts.added" variant="text" @click="undoing = true">Undo this import</v-btn>
        </div>
        <UndoImport v-model="undoing" :import-id="id" />
        <EnrollDialog v-model="enrolling" :import-id="id" />
      </section>
    </template>
  </div>
</template>

<style scoped>
.page {
  max-width: 980px;
}
.wrap {
  flex-wrap: wrap;
}
.name {
  font: inherit;
  padding: 4px 8px;
  border: 1px solid var(--stone);
  border-radius: 6px;
  background: #fff;
  width: 260px;
}
.scroll {
  overflow: auto;
  max-height: 60vh;
}
select {
  font: inherit;
  padding: 4px 6px;
  border: 1px solid var(--stone);
  border-radius: 6px;
  background: #fff;
  min-width: 190px;
}
.values {
  max-width: 420px;
  overflow-wrap: anywhere;
}
.sums {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 18px;
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  padding: 14px 0;
}
.sums div {
  display: grid;
  align-content: start;
}
.sums strong {
  font-size: 26px;
  line-height: 1.2;
}
.clay strong {
  color: var(--clay-deep);
}
@media (max-width: 700px) {
  .sums {
    grid-template-columns: 1fr 1fr;
  }
}
.whole {
  border: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 12px;
  max-width: 720px;
}
.whole legend {
  margin-bottom: 8px;
  color: var(--dim);
}
</style>

<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { computed, onMounted, reactive, ref } from 'vue'
import { useRoute } from '#imports'
import { IMPORT_FIELDS, kindOfFile, type ImportTarget } from '#core/imports/columns'
import { listFields } from '#shared/api/settings/fields'
import { checkImport, getImport, runImport, type Import } from '#shared/api/imports'
import { listUsers } from '#shared/api/settings/settings'
import { ApiError, call, messageOf } from '~/api/call'
import { useSavedMappings } from '~/composables/savedMappings'
import { useSession } from '~/stores/session'

const id = useRoute().params.id as string
const found = ref<Import | null>(null)
const mapping = ref<Record<string, ImportTarget>>({})
const known = ref<Import['knownAction']>('skip')
const session = useSession()
const owners = ref<{ id: string; name: string }[]>([])
const remap = ref(false)
const lastError = ref('')
const busy = ref(false)
const own = ref<{ value: string; title: string }[]>([])
const fields = computed(() => [
  { value: '', title: 'skip this column' },
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
const { saved, saveAs, readSaved, useSaved, save, forget } = useSavedMappings(found, mapping, (message) => {
  lastError.value = message
})
const counts = computed(() => found.value?.counts ?? {})
const show = (count: number | undefined) => (count ?? 0).toLocaleString('en-US')
const mapped = computed(() => Object.values(mapping.value))
const kind = computed(() => kindOfFile(Object.fromEntries(Object.entries(mapping.value).filter(([, field]) => field))))
const atColumns = computed(() => found.value !== null && (found.value.status === 'uploaded' || remap.value))

/** A custom field among the targets of columns: its key and its name there. */
const keyOf = (field: { id: string; of: string }) => `${field.of === 'company' ? 'company:' : ''}custom:${field.id}`
const titleOf = (field: { name: string; of: string }) =>
  `${field.of === 'company' ? 'Company: ' : ''}${field.name} (custom field)`

function take(response: Import, first = false): void {
  const moved = found.value?.status !== response.status
  found.value = response
  if (first || moved) {
    mapping.value = { ...response.mapping }
    known.value = response.knownAction
    ownContacts.value = response.ownContacts
    dateOrder.value = response.dateOrder
    const single = response.ownerId ? [response.ownerId] : []
    ownerIds.value = response.ownerIds.length ? response.ownerIds : single
    Object.assign(whole, {
      source: response.whole.source ?? '',
      tags: (response.whole.tags ?? []).join(', '),
      list: response.whole.list ?? '',
      keepNames: response.whole.keepNames ?? false,
    })
  }
  if (response.status === 'checking' || response.status === 'writing') lookIn(500)
  else stop()
}
const wait = ref(500)
const { start, stop } = useTimeoutFn(() => look(), wait, { immediate: false })
/** Reads how far it is in so many milliseconds. */
function lookIn(milliseconds: number): void {
  wait.value = milliseconds
  start()
}
async function look(): Promise<void> {
  try {
    take(await call(getImport, { params: { id } }), found.value === null)
    lastError.value = ''
  } catch (error) {
    lastError.value = messageOf(error, 'This import could not be read')
    lookIn(3_000)
  }
}
onMounted(() => {
  void look()
  call(listFields).then(
    (answer) => {
      const used = answer.fields.filter((field) => field.of !== 'deal')
      own.value = used.map((field) => ({ value: keyOf(field), title: titleOf(field) }))
      dateFields.value = new Set(used.filter((field) => field.kind === 'date').map(keyOf))
    },
    () => {},
  )
  void readSaved()
  if (session.manages) {
    call(listUsers).then(
      ({ users }) => {
        owners.value = users.filter((user) => user.active)
      },
      () => {},
    )
  }
})

async function act(work: (now: Import) => Promise<Import>): Promise<void> {
  if (busy.value) return
  busy.value = true
  lastError.value = ''
  try {
    take(await work(found.value!))
    remap.value = false
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    lastError.value = error.message
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
function choose(column: number, select: HTMLSelectElement): void {
  if (select.value !== NEW_FIELD) return set(column, select.value)
  newFieldFor.value = column
  select.value = mapping.value[column] ?? ''
}
function fieldMade(field: { id: string; of: 'prospect' | 'company'; name: string; kind: string }): void {
  const value = keyOf(field)
  own.value = [...own.value, { value, title: titleOf(field) }]
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
    <p v-if="lastError" class="notice clay my-3" role="alert">{{ lastError }}</p>
    <template v-if="found">
      <p class="dim mb-4">
        {{ found.headings.length }} columns<template v-if="found.dialect"> · {{ found.dialect }}</template>
      </p>
      <p v-if="found.status === 'failed'" class="notice clay" role="alert">{{ found.problem }}</p>

      <section v-if="atColumns">
        <h2 class="mb-1">Map columns</h2>
        <p class="dim mb-3">
          Guessed from the headings and the values. One field must hold a name.
          {{ kind === 'companies' ? 'No column goes to a person: the rows are companies.' : '' }}
        </p>
        <p v-if="saved.length" class="row wrap mb-3">
          <span class="dim">Saved mappings</span
          ><span v-for="way in saved" :key="way.id" class="chip"
            ><button class="plain" @click="useSaved(way.name)">{{ way.name }}</button>
            <button class="plain dim" :aria-label="`Delete ${way.name}`" @click="forget(way.id)">×</button></span
          >
        </p>
        <MapTable
          :headings="found.headings"
          :samples="found.samples"
          :fields="fields"
          :mapping="mapping"
          @choose="choose"
        />
        <NewImportField
          :model-value="newFieldFor !== null"
          :heading="found.headings[newFieldFor ?? 0] ?? ''"
          :samples="found.samples.map((row) => row[newFieldFor ?? 0] ?? '')"
          :of-companies="kind === 'companies'"
          @made="fieldMade"
          @update:model-value="newFieldFor = $event ? newFieldFor : null"
        />
        <form class="row mt-3" @submit.prevent="save">
          <input
            v-model="saveAs"
            class="name"
            maxlength="100"
            aria-label="Save this mapping as"
            placeholder="Save this mapping as …"
          /><v-btn size="small" type="submit" variant="outlined" :disabled="!saveAs.trim() || !mapped.length"
            >Save</v-btn
          >
        </form>
        <label v-if="kind !== 'companies'" class="row mt-3"
          ><input v-model="ownContacts" type="checkbox" /> These are my own contacts: they do not count as new, and I
          own them</label
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
            hint="Companies stay together. Leave empty for no owner"
            persistent-hint
          />
        </fieldset>
        <div class="row mt-4">
          <v-btn color="primary" :loading="busy" :disabled="!kind" @click="check">Validate</v-btn
          ><span class="dim">Nothing is written yet.</span>
        </div>
      </section>

      <section v-else-if="found.status === 'checking' || found.status === 'writing'" role="status">
        <h2>{{ found.status === 'checking' ? 'Checking every row' : 'Importing' }}</h2>
        <v-progress-linear indeterminate color="primary" class="my-3" rounded height="6" />
        <p class="dim num">
          {{ found.status === 'checking' ? `${show(found.progress)} rows read` : 'All of them or none.' }} You can leave
          this page; it goes on.
        </p>
      </section>

      <section v-else-if="found.status === 'checked'">
        <h2 class="mb-3">Review</h2>
        <ImportReview :counts="counts" :import-id="id" :of-companies="kind === 'companies'" />
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

      <ImportDone
        v-else-if="found.status === 'done'"
        :counts="counts"
        :import-id="id"
        :of-companies="kind === 'companies'"
      />
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
  width: 260px;
}
select {
  min-width: 190px;
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

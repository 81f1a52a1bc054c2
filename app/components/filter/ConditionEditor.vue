<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { navigateTo, useRoute } from '#imports'
import type { Field } from '#core/filter/fields'
import { FARTHEST_KM, SPANS, UNITS, type Condition, type Op, type Test } from '#core/filter/filter'
import { opsOf } from '#core/filter/problems'
import type { Place } from '#shared/api/places'
import { takeCharacter } from '~/composables/keys'
import { useDistance } from '~/composables/distance'

/** Asks for one condition: which field, what about it, and the value; every change is told at once. */
const props = defineProps<{ condition: Condition | null; fields: readonly Field[] }>()
const emit = defineEmits<{
  change: [condition: Condition]
  done: []
  /** Closed by Escape: the cursor goes back to where it was opened. */ escape: []
  remove: []
}>()

const GROUPS: Record<Field['group'], string> = {
  person: 'Person',
  company: 'Company',
  touches: 'Touches',
  cadences: 'Cadences',
  deals: 'Deals',
  lists: 'Lists',
}
const OP_NAMES: Record<Op, string> = {
  set: 'is set',
  unset: 'is not set',
  yes: 'is yes',
  no: 'is no',
  is: 'is',
  isNot: 'is not',
  contains: 'contains',
  containsNot: 'does not contain',
  startsWith: 'starts with',
  anyOf: 'is any of',
  noneOf: 'is none of',
  hasAny: 'has any of',
  hasAll: 'has all of',
  hasNone: 'has none of',
  exactly: 'is exactly',
  equals: 'is',
  differs: 'is not',
  atLeast: 'is at least',
  atMost: 'is at most',
  moreThan: 'is more than',
  lessThan: 'is less than',
  between: 'is between',
  moreAgo: 'is more than … ago',
  inLast: 'is in the last …',
  inNext: 'is in the next …',
  moreAhead: 'is more than … ahead',
  during: 'is in',
  before: 'is before',
  after: 'is after',
  on: 'is on',
  near: 'is within … of',
  far: 'is more than … from',
  inside: 'is inside an area',
  notInside: 'is not inside an area',
}
const FIRST_OPS: Record<Field['kind'], Op> = {
  text: 'contains',
  choice: 'anyOf',
  several: 'hasAny',
  number: 'atLeast',
  moment: 'moreAgo',
  yesNo: 'yes',
  place: 'near',
}
const DAYS = ['today', 'monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday']

const route = useRoute()
const distance = useDistance()
const search = ref('')
const root = ref<HTMLElement | null>(null)
const field = ref<Field | null>(null)
const op = ref<Op>('contains')
const given = ref({
  text: '',
  values: [] as string[],
  number: 1,
  from: 1,
  to: 5,
  amount: 2,
  unit: 'days' as (typeof UNITS)[number],
  span: 'this week' as (typeof SPANS)[number],
  day: 'today',
  orNever: false,
  distance: distance.usual,
  name: '',
  at: null as [number, number] | null,
  area: [] as [number, number][],
})
const date = ref('')
const valueSearch = ref('')

watch(
  () => props.condition,
  (condition) => {
    if (!condition) return
    field.value = props.fields.find((one) => one.key === condition.field) ?? null
    op.value = condition.test.op
    Object.assign(given.value, { orNever: false }, condition.test)
    if ('km' in condition.test) given.value.distance = distance.shown(condition.test.km)
    if ('day' in condition.test && !DAYS.includes(condition.test.day)) date.value = condition.test.day
  },
  { immediate: true },
)

const offered = computed(() => {
  const wanted = search.value.trim().toLowerCase()
  const found = props.fields.filter((one) => one.label.includes(wanted))
  return (Object.keys(GROUPS) as Field['group'][])
    .map((group) => ({ group, label: GROUPS[group], fields: found.filter((one) => one.group === group) }))
    .filter(({ fields }) => fields.length)
})
const values = computed(() =>
  (field.value?.choices ?? []).filter((choice) =>
    choice.name.toLowerCase().includes(valueSearch.value.trim().toLowerCase()),
  ),
)

const isDistance = (shown: number) => {
  const { km } = distance.test(shown)
  return km >= 0.1 && km <= FARTHEST_KM
}
const isAmount = (amount: number) => Number.isInteger(amount) && amount >= 1 && amount <= 10_000
function test(): Test | null {
  const { text, number, from, to, amount, unit, span, orNever } = given.value
  switch (op.value) {
    case 'set':
    case 'unset':
    case 'yes':
    case 'no':
      return { op: op.value }
    case 'is':
    case 'isNot':
    case 'contains':
    case 'containsNot':
    case 'startsWith':
      return text.trim() ? { op: op.value, text: text.trim() } : null
    case 'anyOf':
    case 'noneOf':
    case 'hasAny':
    case 'hasAll':
    case 'hasNone':
    case 'exactly':
      return given.value.values.length ? { op: op.value, values: given.value.values } : null
    case 'equals':
    case 'differs':
    case 'atLeast':
    case 'atMost':
    case 'moreThan':
    case 'lessThan':
      return Number.isFinite(number) ? { op: op.value, number } : null
    case 'between':
      return Number.isFinite(from) && Number.isFinite(to) && from <= to ? { op: op.value, from, to } : null
    case 'moreAgo':
      return isAmount(amount) ? { op: op.value, amount, unit, ...(orNever && { orNever }) } : null
    case 'before':
      return given.value.day ? { op: op.value, day: given.value.day as 'today', ...(orNever && { orNever }) } : null
    case 'inLast':
    case 'inNext':
    case 'moreAhead':
      return isAmount(amount) ? { op: op.value, amount, unit } : null
    case 'during':
      return { op: op.value, span }
    case 'near':
    case 'far':
      return given.value.at && isDistance(given.value.distance)
        ? { op: op.value, ...distance.test(given.value.distance), name: given.value.name, at: given.value.at }
        : null
    case 'inside':
    case 'notInside':
      return given.value.area.length ? { op: op.value, area: given.value.area } : null
    default:
      return given.value.day ? { op: op.value, day: given.value.day as 'today' } : null
  }
}
function tell(): void {
  const asked = test()
  if (field.value && asked) emit('change', { field: field.value.key, test: asked })
}
/**
 * Puts the cursor where something is to be given: the field to look for, the value, or, where none is needed, what is
 * asked.
 */
function focusOnGiven(): void {
  const found = ['.find', '.value input, .value select', '.ops']
    .map((selector) => root.value?.querySelector<HTMLElement>(selector))
    .find(Boolean)
  found?.focus({ preventScroll: true })
  // What stands there is written over; what was typed early goes on.
  if (found instanceof HTMLInputElement && !found.matches('.find, [type=checkbox]')) found.select()
}
async function choose(chosen: Field): Promise<void> {
  field.value = chosen
  op.value = opsOf(chosen).includes(op.value) ? op.value : FIRST_OPS[chosen.kind]
  if (!opsOf(chosen).includes(op.value)) op.value = opsOf(chosen)[0]!
  given.value.values = []
  given.value.text = ''
  // Who was never called was not called in the last two days either.
  given.value.orNever = chosen.group === 'touches'
  tell()
  await nextTick()
  focusOnGiven()
}
function toggle(id: string): void {
  given.value.values = given.value.values.includes(id)
    ? given.value.values.filter((one) => one !== id)
    : [...given.value.values, id]
  tell()
}
function pickPlace(place: Place): void {
  given.value.name = [place.name, place.region, place.country].filter(Boolean).join(', ')
  given.value.at = [place.longitude, place.latitude]
  tell()
}
/** An area is drawn where the people are seen. */
function drawArea(): void {
  emit('done')
  void navigateTo({ path: '/prospects', query: { ...route.query, by: 'map', draw: '1' } })
}
function pickDay(day: string): void {
  given.value.day = day === 'date' ? date.value : day
  tell()
}
/** What is typed before the line is there to take it is not lost, nor taken for a key of the screen below. */
function early(event: KeyboardEvent): void {
  if (!field.value) search.value += takeCharacter(event) ?? ''
}
onMounted(async () => {
  // A menu is there some frames before it is seen, and what is not seen takes no focus.
  window.addEventListener('keydown', early, true)
  for (let frame = 0; frame < 60 && root.value && !root.value.checkVisibility({ visibilityProperty: true }); frame++) {
    await new Promise(requestAnimationFrame)
  }
  window.removeEventListener('keydown', early, true)
  focusOnGiven()
})
onBeforeUnmount(() => window.removeEventListener('keydown', early, true))
</script>

<template>
  <div ref="root" class="editor" @keydown.enter.prevent="emit('done')" @keydown.esc.stop="emit('escape')">
    <template v-if="!field">
      <input
        v-model="search"
        class="find"
        placeholder="Choose a field"
        aria-label="Find a field"
        @keydown.enter.stop.prevent="offered[0]?.fields[0] && choose(offered[0].fields[0])"
      />
      <div class="fields">
        <section v-for="group in offered" :key="group.group">
          <h3>{{ group.label }}</h3>
          <button v-for="one in group.fields" :key="one.key" class="plain pick" @click="choose(one)">
            {{ one.label }}
          </button>
        </section>
        <p v-if="!offered.length" class="dim pa-2">No field has “{{ search }}” in its name.</p>
      </div>
      <slot />
    </template>
    <template v-else>
      <div class="row head">
        <button class="plain name" title="Choose another field" @click="field = null">
          {{ field.label }} <span class="dim">change</span>
        </button>
        <select v-model="op" class="ops" aria-label="Condition" @change="tell">
          <option v-for="one in opsOf(field)" :key="one" :value="one">
            {{
              field.kind === 'moment' && one === 'set'
                ? 'is ever'
                : field.kind === 'moment' && one === 'unset'
                  ? 'is never'
                  : OP_NAMES[one]
            }}
          </option>
        </select>
      </div>
      <div class="value">
        <input
          v-if="['is', 'isNot', 'contains', 'containsNot', 'startsWith'].includes(op)"
          v-model="given.text"
          aria-label="Text"
          maxlength="300"
          @input="tell"
        />
        <template v-else-if="['anyOf', 'noneOf', 'hasAny', 'hasAll', 'hasNone', 'exactly'].includes(op)">
          <input
            v-if="(field.choices?.length ?? 0) > 8"
            v-model="valueSearch"
            placeholder="Find"
            aria-label="Find a value"
            class="mb-1"
          />
          <div class="choices" role="group" :aria-label="field.label">
            <label v-for="choice in values" :key="choice.id"
              ><input type="checkbox" :checked="given.values.includes(choice.id)" @change="toggle(choice.id)" />
              <span class="cut">{{ choice.name }}</span></label
            >
            <p v-if="!values.length" class="dim">There is nothing to choose yet.</p>
          </div>
        </template>
        <input
          v-else-if="['equals', 'differs', 'atLeast', 'atMost', 'moreThan', 'lessThan'].includes(op)"
          v-model.number="given.number"
          type="number"
          step="any"
          aria-label="Number"
          @input="tell"
        />
        <div v-else-if="op === 'between'" class="row">
          <input v-model.number="given.from" type="number" step="any" aria-label="From" @input="tell" /> and
          <input v-model.number="given.to" type="number" step="any" aria-label="To" @input="tell" />
        </div>
        <div v-else-if="['moreAgo', 'inLast', 'inNext', 'moreAhead'].includes(op)" class="row">
          <input
            v-model.number="given.amount"
            type="number"
            min="1"
            max="10000"
            aria-label="How many"
            @input="tell"
          /><select v-model="given.unit" aria-label="Unit" @change="tell">
            <option v-for="unit in UNITS" :key="unit">{{ unit }}</option></select
          ><span v-if="op === 'moreAgo'">ago</span><span v-else-if="op === 'moreAhead'">ahead</span>
        </div>
        <select v-else-if="op === 'during'" v-model="given.span" aria-label="When" @change="tell">
          <option v-for="span in SPANS" :key="span">{{ span }}</option>
        </select>
        <template v-else-if="op === 'near' || op === 'far'"
          ><div class="row mb-1">
            <input
              v-model.number="given.distance"
              type="number"
              min="0.1"
              step="any"
              :aria-label="distance.label"
              @input="tell"
            />
            {{ distance.unit }} {{ op === 'near' ? 'of' : 'from' }}
          </div>
          <PlaceFinder :name="given.name" @choose="pickPlace"
        /></template>
        <div v-else-if="op === 'inside' || op === 'notInside'" class="area">
          <p v-if="given.area.length" class="dim">Drawn with {{ given.area.length }} corners.</p>
          <v-btn size="small" variant="outlined" @click="drawArea">{{
            given.area.length ? 'Draw another on the map' : 'Draw it on the map'
          }}</v-btn>
        </div>
        <div v-else-if="['before', 'after', 'on'].includes(op)" class="row">
          <select
            :value="DAYS.includes(given.day) ? given.day : 'date'"
            aria-label="Day"
            @change="pickDay(($event.target as HTMLSelectElement).value)"
          >
            <option v-for="day in DAYS" :key="day" :value="day">{{ day === 'today' ? day : `next ${day}` }}</option>
            <option value="date">a date</option></select
          ><input
            v-if="!DAYS.includes(given.day)"
            v-model="date"
            type="date"
            aria-label="Date"
            @input="pickDay('date')"
          />
        </div>
        <label v-if="(op === 'moreAgo' || op === 'before') && field.key !== 'createdAt'" class="never"
          ><input v-model="given.orNever" type="checkbox" @change="tell" /> or never</label
        >
      </div>
      <div class="spread mt-2">
        <button class="link small" @click="emit('remove')">Delete filter</button
        ><v-btn size="small" color="primary" @click="emit('done')">Done <kbd class="ml-2">Enter</kbd></v-btn>
      </div>
    </template>
  </div>
</template>

<style scoped>
.editor {
  width: 380px;
  max-width: 92vw;
  padding: 12px;
  background: var(--card);
  border: 1px solid var(--bark);
  border-radius: 8px;
  box-shadow: 0 6px 22px rgb(31 43 39 / 16%);
}
input:not([type='checkbox']),
select {
  font: inherit;
  font-size: 14px;
  color: var(--ink);
  border: 1px solid var(--stone);
  border-radius: 6px;
  padding: 5px 7px;
  background: #fff;
  min-width: 0;
  width: 100%;
}
.row input,
.row select {
  width: auto;
  flex: 1;
}
.fields {
  max-height: 320px;
  overflow-y: auto;
  margin-top: 8px;
  display: grid;
  gap: 8px;
}
.fields h3 {
  font-size: 12.5px;
  margin-bottom: 2px;
}
.pick {
  padding: 3px 8px;
  border-radius: 5px;
  margin: 0 2px 2px 0;
  background: var(--shade);
}
.pick:hover {
  background: var(--pine-soft);
}
.head {
  margin-bottom: 8px;
}
.name {
  font-weight: 600;
  flex: 0 0 auto;
}
.name .dim {
  font-weight: 400;
  font-size: 12.5px;
  text-decoration: underline;
}
.ops {
  flex: 1;
}
.never {
  display: flex;
  gap: 7px;
  align-items: center;
  margin-top: 8px;
}
.choices {
  max-height: 210px;
  overflow-y: auto;
  display: grid;
  gap: 1px;
}
.choices label {
  display: flex;
  gap: 7px;
  align-items: center;
  padding: 3px 2px;
  border-radius: 5px;
  min-width: 0;
}
.choices label:hover {
  background: var(--shade);
}
</style>

<script setup lang="ts">
import { computed, ref } from 'vue'
import { navigateTo, useRoute } from '#imports'
import type { Field } from '#core/filter/fields'
import { SPANS, UNITS, type Op } from '#core/filter/filter'
import type { Place } from '#shared/api/places'
import { useDistance } from '~/composables/distance'
import { DAYS, type ConditionForm } from './conditionForm'

/** The value that a condition asks for, by its operator. */
const given = defineModel<ConditionForm>({ required: true })
const props = defineProps<{ field: Field; op: Op }>()
const emit = defineEmits<{ tell: []; done: [] }>()
const route = useRoute()
const distance = useDistance()
const date = ref(DAYS.includes(given.value.day) ? '' : given.value.day)
const valueSearch = ref('')
const values = computed(() =>
  (props.field.choices ?? []).filter((choice) =>
    choice.name.toLowerCase().includes(valueSearch.value.trim().toLowerCase()),
  ),
)
function toggle(id: string): void {
  given.value.values = given.value.values.includes(id)
    ? given.value.values.filter((one) => one !== id)
    : [...given.value.values, id]
  emit('tell')
}
function pickPlace(place: Place): void {
  given.value.name = [place.name, place.region, place.country].filter(Boolean).join(', ')
  given.value.at = [place.longitude, place.latitude]
  emit('tell')
}
/** An area is drawn where the people are seen. */
function drawArea(): void {
  emit('done')
  void navigateTo({ path: '/prospects', query: { ...route.query, by: 'map', draw: '1' } })
}
function pickDay(day: string): void {
  given.value.day = day === 'date' ? date.value : day
  emit('tell')
}
</script>

<template>
  <div class="value">
    <input
      v-if="['is', 'isNot', 'contains', 'containsNot', 'startsWith'].includes(op)"
      v-model="given.text"
      aria-label="Text"
      maxlength="300"
      @input="emit('tell')"
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
      @input="emit('tell')"
    />
    <div v-else-if="op === 'between'" class="row">
      <input v-model.number="given.from" type="number" step="any" aria-label="From" @input="emit('tell')" /> and
      <input v-model.number="given.to" type="number" step="any" aria-label="To" @input="emit('tell')" />
    </div>
    <div v-else-if="['moreAgo', 'inLast', 'inNext', 'moreAhead'].includes(op)" class="row">
      <input
        v-model.number="given.amount"
        type="number"
        min="1"
        max="10000"
        aria-label="How many"
        @input="emit('tell')"
      /><select v-model="given.unit" aria-label="Unit" @change="emit('tell')">
        <option v-for="unit in UNITS" :key="unit">{{ unit }}</option></select
      ><span v-if="op === 'moreAgo'">ago</span><span v-else-if="op === 'moreAhead'">ahead</span>
    </div>
    <select v-else-if="op === 'during'" v-model="given.span" aria-label="When" @change="emit('tell')">
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
          @input="emit('tell')"
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
      ><input v-if="!DAYS.includes(given.day)" v-model="date" type="date" aria-label="Date" @input="pickDay('date')" />
    </div>
    <label v-if="(op === 'moreAgo' || op === 'before') && field.key !== 'createdAt'" class="never"
      ><input v-model="given.orNever" type="checkbox" @change="emit('tell')" /> or never</label
    >
  </div>
</template>

<style scoped>
input:not([type='checkbox']),
select {
  font-size: 14px;
  min-width: 0;
  width: 100%;
}
.row input,
.row select {
  width: auto;
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

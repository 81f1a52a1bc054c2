<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Field } from '#core/filter/fields'
import { conditionsOf, normalize, type Filter } from '#core/filter/filter'
import type { CountedPeople } from '#shared/api/lists'
import type FilterSentence from '~/components/filter/FilterSentence.vue'

/** The filter as a sentence, to be cleared or saved as a list; and how many are archived and therefore not shown. */
const filter = defineModel<Filter>({ required: true })
const props = defineProps<{
  fields: readonly Field[]
  /** Whether it narrows a list, and not everyone. */
  ofList: boolean
  narrowed: boolean
  count: CountedPeople | null
}>()
const emit = defineEmits<{ clear: []; keep: [] }>()
const sentence = ref<InstanceType<typeof FilterSentence> | null>(null)
const lead = computed(() => {
  if (conditionsOf(filter.value).length) return props.ofList ? 'of these, where' : 'where'
  return props.ofList ? 'of these, all' : 'Everyone'
})
const archived = computed(() => {
  if (!props.count?.removed) return ''
  const { removed, exact } = props.count
  return `${exact ? '' : 'About '}${removed.toLocaleString('en-US')} archived ${removed === 1 ? 'person is' : 'people are'} not shown.`
})
function showArchived(): void {
  filter.value = normalize({ all: [filter.value, { field: 'status', test: { op: 'anyOf', values: ['archived'] } }] })
}
defineExpose({ add: () => sentence.value?.add() })
</script>

<template>
  <div class="filter">
    <span class="dim lead">{{ lead }}</span>
    <FilterSentence v-if="fields.length" ref="sentence" v-model="filter" :fields="fields" class="grow" />
    <span v-if="narrowed" class="row tail">
      <button class="link small" @click="emit('clear')">Clear filters</button>
      <v-btn size="small" variant="outlined" @click="emit('keep')">Save as list</v-btn>
    </span>
  </div>
  <p v-if="archived" class="small dim">
    {{ archived }} <button class="link small" @click="showArchived">Show only them</button>
  </p>
</template>

<style scoped>
.filter {
  display: flex;
  align-items: baseline;
  gap: 8px;
}
.lead,
.tail {
  flex: none;
}
@media (max-width: 1000px) {
  .filter {
    flex-wrap: wrap;
  }
  .filter > .grow {
    flex: 1 1 420px;
  }
}
@media (max-width: 600px) {
  .filter {
    display: grid;
  }
}
</style>

<script setup lang="ts">
import { ref } from 'vue'
import type { ListView } from '#core/enumerations'
import type { Field } from '#core/filter/fields'
import type { List } from '#shared/api/lists'

/** The head of the prospects: which list, how many, seen how; the search; what to do with it. */
type View = ListView
const search = defineModel<string>('search', { required: true })
defineProps<{
  list: List | null
  headline: string
  view: View
  columns: List['columns']
  columnFields: readonly Field[]
  /** The address of all that is shown as a file. */
  exported: (format: 'csv' | 'json' | 'vcard') => string
}>()
const emit = defineEmits<{
  view: [view: View]
  settings: []
  columns: [columns: List['columns']]
  /** From the search to the first row. */
  down: []
}>()
const VIEWS: readonly { id: View; label: string }[] = [
  { id: 'people', label: 'People' },
  { id: 'companies', label: 'Companies' },
  { id: 'map', label: 'Map' },
]
const find = ref<{ focus(): void } | null>(null)
defineExpose({ focus: () => find.value?.focus() })
</script>

<template>
  <div class="spread">
    <div class="row title">
      <h1 class="cut">{{ list?.name ?? 'Prospects' }}</h1>
      <span class="num dim" role="status">{{ list?.problems.length ? '' : headline }}</span>
      <span v-if="!list?.problems.length" class="row by small">
        <button
          v-for="one in VIEWS"
          :key="one.id"
          :class="view === one.id ? 'plain on' : 'link'"
          :aria-pressed="view === one.id"
          @click="emit('view', one.id)"
        >
          {{ one.label }}
        </button>
      </span>
    </div>
    <div class="row acts">
      <v-text-field
        ref="find"
        v-model="search"
        placeholder="Search this list"
        aria-label="Search"
        clearable
        class="search"
        @keydown.enter="emit('down')"
        @keydown.down.prevent="emit('down')"
      />
      <v-btn v-if="list && !list.problems.length" color="primary" size="small" :to="`/?list=${list.id}`">
        Work this list
      </v-btn>
      <button v-if="list?.mayEdit" class="link small" @click="emit('settings')">List settings</button>
      <ColumnPicker
        v-if="view === 'people'"
        :model-value="columns"
        :fields="columnFields"
        @update:model-value="emit('columns', $event)"
      />
      <v-menu>
        <template #activator="{ props: act }">
          <button v-bind="act" class="link small" aria-label="Export">Export</button>
        </template>
        <v-list>
          <v-list-item title="CSV, for a spreadsheet" :href="exported('csv')" download />
          <v-list-item title="vCard, for an address book" :href="exported('vcard')" download />
          <v-list-item title="JSON, for a program" :href="exported('json')" download />
        </v-list>
      </v-menu>
      <template v-if="!list">
        <NuxtLink to="/duplicates" class="link small">Duplicates</NuxtLink>
        <NuxtLink to="/changes" class="link small">Bulk actions</NuxtLink>
        <v-btn variant="outlined" size="small" to="/imports">Import</v-btn>
      </template>
    </div>
  </div>
</template>

<style scoped>
.title {
  min-width: 0;
  align-items: baseline;
}
/* The views beside the count keep their place when it changes. */
.title > .num {
  flex: none;
  min-width: 11ch;
}
.by {
  flex: none;
}
.by .on {
  font-weight: 600;
}
.by button {
  min-height: 24px;
}
.acts {
  flex: none;
}
.search {
  width: 190px;
}
@media (max-width: 1000px) {
  .spread {
    flex-wrap: wrap;
  }
}
@media (max-width: 600px) {
  .title {
    flex-wrap: wrap;
  }
  .search {
    width: 100%;
  }
  .acts {
    flex: 1 1 100%;
    min-width: 0;
    flex-wrap: wrap;
  }
}
</style>

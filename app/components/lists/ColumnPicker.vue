<script setup lang="ts">
import { computed, ref } from 'vue'
import { VueDraggable } from 'vue-draggable-plus'
import type { Field } from '#core/filter/fields'
import type { List } from '#shared/api/lists'

/** Which columns are shown and in what order: dragged, or moved with Alt and the arrows. */
const columns = defineModel<List['columns']>({ required: true })
const props = defineProps<{ fields: readonly Field[] }>()
const search = ref('')
const chosen = computed({
  get: () => columns.value.filter((column) => props.fields.some((field) => field.key === column.key)),
  set: (value) => {
    columns.value = value
  },
})
const others = computed(() =>
  props.fields.filter(
    (field) =>
      !['name', 'lists'].includes(field.key) &&
      !columns.value.some((column) => column.key === field.key) &&
      field.label.includes(search.value.trim().toLowerCase()),
  ),
)
const label = (key: string) => props.fields.find((field) => field.key === key)?.label ?? key
function move(index: number, by: number): void {
  const order = [...chosen.value]
  if (!order[index + by]) return
  order.splice(index + by, 0, ...order.splice(index, 1))
  columns.value = order
}
</script>

<template>
  <v-menu :close-on-content-click="false" location="bottom end" offset="4">
    <template #activator="{ props: act }"
      ><button v-bind="act" class="link small" aria-label="Columns">Columns</button></template
    >
    <div class="picker">
      <h3>Shown, in this order</h3>
      <VueDraggable v-model="chosen" :animation="120">
        <div v-for="(column, index) in chosen" :key="column.key" class="column">
          <button
            class="plain grow"
            :aria-label="`${label(column.key)}: Alt and arrows move it`"
            @keydown.alt.up.prevent="move(index, -1)"
            @keydown.alt.down.prevent="move(index, 1)"
          >
            {{ label(column.key) }}</button><button
            class="plain out"
            :aria-label="`Hide ${label(column.key)}`"
            @click="columns = columns.filter((one) => one.key !== column.key)"
          >
            ×
          </button>
        </div>
      </VueDraggable>
      <h3>More</h3>
      <input v-model="search" placeholder="Find a field" aria-label="Find a field" />
      <div class="others">
        <button
          v-for="field in others"
          :key="field.key"
          class="plain pick"
          @click="columns = [...columns, { key: field.key, width: null }]"
        >
          {{ field.label }}
        </button>
      </div>
    </div>
  </v-menu>
</template>

<style scoped>
.picker {
  width: 300px;
  padding: 12px;
  background: var(--card);
  border: 1px solid var(--bark);
  border-radius: 8px;
  box-shadow: 0 6px 22px rgb(31 43 39 / 16%);
}
.column {
  display: flex;
  padding: 3px 4px 3px 8px;
  border-radius: 5px;
  cursor: grab;
}
.column:hover {
  background: var(--shade);
}
.out {
  min-width: 26px;
  min-height: 26px;
  color: var(--dim);
}
h3 {
  margin: 6px 0 4px;
}
input {
  width: 100%;
}
.others {
  max-height: 180px;
  overflow-y: auto;
  margin-top: 6px;
}
.pick {
  padding: 2px 8px;
  min-height: 26px;
  margin: 0 3px 3px 0;
  border-radius: 5px;
  background: var(--shade);
}
.pick:hover {
  background: var(--pine-soft);
}
</style>

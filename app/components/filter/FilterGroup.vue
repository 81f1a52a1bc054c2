<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import type { Field } from '#core/filter/fields'
import { isCondition, partsOf, type Condition, type Filter } from '#core/filter/filter'
import { forReading, printTest } from '#core/filter/sentence'

/** Conditions joined by "and" or "or", or of which none may hold; each is edited where it stands. */
const props = defineProps<{
  group: Exclude<Filter, Condition>
  fields: readonly Field[]
  byKey: ReadonlyMap<string, Field>
  top?: boolean
}>()
const emit = defineEmits<{ change: [group: Exclude<Filter, Condition> | null] }>()

const about = computed(() => partsOf(props.group))
const open = ref<number | null>(null)
const adding = ref(false)
/** Which part the condition being added has become, from its first value on. */
const added = ref<number | null>(null)
watch(adding, () => {
  added.value = null
})
const joint = computed(() => (about.value.kind === 'all' ? 'and' : 'or'))

function tell(parts: Filter[], kind = about.value.kind): void {
  emit('change', parts.length || props.top ? ({ [kind]: parts } as Exclude<Filter, Condition>) : null)
}
function put(index: number, part: Filter | null): void {
  tell(
    part
      ? about.value.parts.map((one, at) => (at === index ? part : one))
      : about.value.parts.filter((_, at) => at !== index),
  )
}
/** What is being added stays in the same editor while it grows: nothing that is typed is lost. */
function add(condition: Condition): void {
  if (added.value !== null) return put(added.value, condition)
  added.value = about.value.parts.length
  tell([...about.value.parts, condition])
}
function addBrackets(group: Filter): void {
  adding.value = false
  tell([...about.value.parts, group])
}
function takeBack(): void {
  if (added.value !== null) put(added.value, null)
  adding.value = false
}
const root = ref<HTMLElement | null>(null)
/** Closes what is edited, and gives the cursor back to its button. */
function escape(button: string): void {
  const opener = root.value?.querySelector<HTMLElement>(button)
  open.value = null
  adding.value = false
  void nextTick(() => opener?.focus())
}
defineExpose({
  ask: () => {
    adding.value = true
  },
})
/** Another way to join: what is joined stays. */
function turn(): void {
  tell(about.value.parts, about.value.kind === 'all' ? 'any' : 'all')
}
function words(condition: Condition): { name: string; asked: string } {
  const field = props.byKey.get(condition.field)
  return { name: field?.label ?? 'a deleted field', asked: forReading(printTest(condition.test, field)) }
}
function removeAt(index: number): void {
  open.value = null
  put(index, null)
}
</script>

<template>
  <span ref="root" class="group" :class="{ inner: !top }">
    <span v-if="about.kind === 'none'" class="join none">none of</span
    ><span v-if="!top" class="bracket" aria-hidden="true">(</span>
    <template v-for="(part, index) in about.parts" :key="index">
      <button
        v-if="index && about.kind !== 'none'"
        class="plain join"
        :title="`Use “${joint === 'and' ? 'or' : 'and'}” instead`"
        @click="turn"
      >
        {{ joint }}</button><span v-else-if="index" class="join">or</span>
      <FilterGroup
        v-if="!isCondition(part)"
        :group="part"
        :fields="fields"
        :by-key="byKey"
        @change="put(index, $event)"
      />
      <v-menu
        v-else
        :model-value="open === index"
        :close-on-content-click="false"
        location="bottom start"
        offset="4"
        @update:model-value="open = $event ? index : null"
      >
        <template #activator="{ props: act }"
          ><span class="condition" :class="{ on: open === index, missing: !byKey.has(part.field) }"
            ><button v-bind="act" class="plain words" :aria-label="`${words(part).name} ${words(part).asked}`">
              <b>{{ words(part).name }}</b> {{ words(part).asked }}</button
            ><button
              class="plain out"
              :aria-label="`Remove: ${words(part).name} ${words(part).asked}`"
              @click="put(index, null)"
            >
              ×
            </button></span
          ></template
        >
        <ConditionEditor
          :condition="part"
          :fields="fields"
          @change="put(index, $event)"
          @done="open = null"
          @escape="escape(':scope > .condition.on > .words')"
          @remove="removeAt(index)"
        />
      </v-menu>
    </template>
    <v-menu v-model="adding" :close-on-content-click="false" location="bottom start" offset="4">
      <template #activator="{ props: act }"
        ><button
          v-bind="act"
          class="plain more"
          :aria-label="about.parts.length ? `Add filter: ${about.kind === 'all' ? 'and' : 'or'}` : 'Add filter'"
        >
          {{ about.parts.length ? `+ ${about.kind === 'all' ? 'and' : 'or'} …` : top ? '+ Add filter' : '+ …' }}
        </button></template
      >
      <ConditionEditor
        v-if="adding"
        :condition="null"
        :fields="fields"
        @change="add"
        @done="adding = false"
        @escape="escape(':scope > .more')"
        @remove="takeBack"
      >
        <p class="groups">
          Or a group: <button class="link" @click="addBrackets({ any: [] })">any of several</button>,
          <button class="link" @click="addBrackets({ none: [] })">none of several</button>
        </p>
      </ConditionEditor>
    </v-menu>
    <span v-if="!top" class="bracket" aria-hidden="true">)</span
    ><button v-if="!top" class="plain out" aria-label="Delete this group" @click="emit('change', null)">×</button>
  </span>
</template>

<style scoped>
.group {
  display: inline;
  line-height: 2.15;
}
.join {
  margin: 0 6px;
  color: var(--dim);
  font-size: 13px;
}
button.join {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
button.join:hover {
  color: var(--pine);
}
.bracket {
  color: var(--stone);
  font-size: 17px;
  margin: 0 2px;
}
.none {
  margin-left: 0;
}
.condition {
  display: inline-flex;
  align-items: baseline;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 0 2px 0 8px;
  line-height: 1.85;
  max-width: 100%;
}
.condition:hover,
.condition.on {
  border-color: var(--pine);
}
.condition.missing {
  border-color: var(--clay);
  background: var(--clay-soft);
}
.words b {
  font-weight: 600;
}
.words {
  overflow-wrap: anywhere;
}
.out {
  padding: 0 6px;
  color: var(--dim);
  min-width: 24px;
  text-align: center;
}
.out:hover {
  color: var(--clay-deep);
}
.more {
  margin-left: 6px;
  padding: 0 8px;
  color: var(--pine);
  border-radius: 5px;
}
.more:hover {
  background: var(--pine-soft);
}
.groups {
  border-top: 1px solid var(--line);
  margin-top: 8px;
  padding-top: 8px;
  font-size: 13px;
  color: var(--dim);
}
</style>

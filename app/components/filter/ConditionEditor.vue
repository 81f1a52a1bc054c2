<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import type { Field } from '#core/filter/fields'
import type { Condition, Op } from '#core/filter/filter'
import { opsOf } from '#core/filter/problems'
import { takeCharacter } from '~/composables/keys'
import { useDistance } from '~/composables/distance'
import { blankForm, FIRST_OPS, GROUPS, OP_NAMES, testOf } from './conditionForm'

/** Asks for one condition: which field, what about it, and the value; every change is passed on at once. */
const props = defineProps<{ condition: Condition | null; fields: readonly Field[] }>()
const emit = defineEmits<{
  change: [condition: Condition]
  done: []
  /** Closed by Escape: the cursor goes back to where it was opened. */ escape: []
  remove: []
}>()

const distance = useDistance()
const search = ref('')
const root = ref<HTMLElement | null>(null)
const field = ref<Field | null>(null)
const op = ref<Op>('contains')
const given = ref(blankForm(distance))

watch(
  () => props.condition,
  (condition) => {
    if (!condition) return
    field.value = props.fields.find((one) => one.key === condition.field) ?? null
    op.value = condition.test.op
    Object.assign(given.value, { orNever: false }, condition.test)
    if ('km' in condition.test) given.value.distance = distance.shown(condition.test.km)
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

function tell(): void {
  const asked = testOf(op.value, given.value, distance)
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
/** What is typed before the line is there to take it is not lost, nor taken for a key of the screen below. */
function early(event: KeyboardEvent): void {
  if (!field.value) search.value += takeCharacter(event) ?? ''
}
const stopEarly = useEventListener('keydown', early, true)
onMounted(async () => {
  // A menu is there some frames before it is seen, and what is not seen takes no focus.
  for (let frame = 0; frame < 60 && root.value && !root.value.checkVisibility({ visibilityProperty: true }); frame++) {
    await new Promise(requestAnimationFrame)
  }
  stopEarly()
  focusOnGiven()
})
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
      <ConditionValue :key="field.key" v-model="given" :field="field" :op="op" @tell="tell" @done="emit('done')" />
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
  font-size: 14px;
  min-width: 0;
  width: 100%;
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
</style>

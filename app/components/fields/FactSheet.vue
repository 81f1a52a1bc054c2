<script setup lang="ts">
import { nextTick, ref } from 'vue'
import { ApiError } from '~/api/call'
import type { Fact } from './facts'

/** What is known, line by line; each is changed where it stands, and saved when it is left. */
const props = withDefaults(
  defineProps<{ facts: readonly Fact[]; save: (body: object) => Promise<void>; title?: string }>(),
  { title: 'Details' },
)
const emit = defineEmits<{ stale: [] }>()
const open = ref<string | null>(null)
const draft = ref<string | string[]>('')
const formError = ref('')
const busy = ref(false)
const root = ref<HTMLElement | null>(null)

async function edit(fact: Fact): Promise<void> {
  open.value = fact.key
  formError.value = ''
  draft.value = Array.isArray(fact.raw) ? [...fact.raw] : fact.raw
  await nextTick()
  root.value?.querySelector<HTMLElement>('.control')?.focus()
}
async function keep(fact: Fact): Promise<void> {
  if (open.value !== fact.key || busy.value) return
  if (JSON.stringify(draft.value) === JSON.stringify(fact.raw)) return void (open.value = null)
  busy.value = true
  try {
    await props.save(fact.body(draft.value))
    open.value = null
  } catch (error) {
    if (!(error instanceof ApiError)) throw error
    formError.value = error.message
    // What was typed stays; what holds now is read.
    if (error.code === 'conflict') emit('stale')
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <section ref="root" class="panel">
    <h3>{{ title }}</h3>
    <div v-for="fact in facts" :key="fact.key" class="line">
      <span :id="`known-${fact.key}`" class="dim"
        >{{ fact.label }}<span v-if="fact.required" class="needed"> required</span></span
      >
      <span v-if="fact.fixed" class="value">{{ fact.shown }}</span>
      <span v-else-if="open !== fact.key" class="value"
        ><a v-if="fact.kind === 'link' && fact.shown" :href="fact.shown" target="_blank" rel="noopener noreferrer">{{
          fact.shown
        }}</a
        ><button
          :id="`value-${fact.key}`"
          class="plain"
          :aria-labelledby="`known-${fact.key} value-${fact.key}`"
          @click="edit(fact)"
        >
          <template v-if="fact.kind !== 'link' || !fact.shown">{{ fact.shown || '—' }}</template><template v-else
            >change</template
          >
        </button></span
      >
      <form v-else class="value" @submit.prevent="keep(fact)" @keydown.esc.stop="open = null">
        <select
          v-if="fact.options"
          v-model="draft"
          class="control"
          :multiple="fact.kind === 'choices'"
          :aria-labelledby="`known-${fact.key}`"
          @change="fact.kind !== 'choices' && keep(fact)"
          @blur="keep(fact)"
        >
          <option v-if="fact.kind !== 'choices' && !fact.always" value="">—</option>
          <option v-for="option in fact.options" :key="option.value" :value="option.value">{{ option.title }}</option>
        </select>
        <input
          v-else
          v-model="draft"
          class="control"
          :type="fact.kind === 'date' ? 'date' : 'text'"
          :inputmode="fact.kind === 'number' || fact.kind === 'money' ? 'decimal' : undefined"
          :aria-labelledby="`known-${fact.key}`"
          @blur="keep(fact)"
        />
        <span v-if="formError" class="wrong small" role="alert">{{ formError }}</span>
      </form>
    </div>
  </section>
</template>

<style scoped>
.line {
  display: grid;
  grid-template-columns: 110px minmax(0, 1fr);
  gap: 8px;
  align-items: start;
  min-height: 26px;
  padding: 2px 0;
}
.value {
  min-width: 0;
  overflow-wrap: anywhere;
}
.value button {
  width: 100%;
  min-height: 24px;
  border-radius: 4px;
  padding: 0 4px;
  margin-left: -4px;
}
.value button:hover {
  background: var(--shade);
}
.needed {
  font-size: 11.5px;
  color: var(--amber-deep);
}
.control {
  width: 100%;
}
.wrong {
  color: var(--clay-deep);
  display: block;
}
</style>

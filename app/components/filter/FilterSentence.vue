<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import type { Field } from '#core/filter/fields'
import type FilterGroup from './FilterGroup.vue'
import { normalize, type Condition, type Filter } from '#core/filter/filter'
import { parse, print, SentenceError } from '#core/filter/sentence'

/** A filter as a sentence: edited in place, or as text that can be copied, pasted and sent. */
const filter = defineModel<Filter>({ required: true })
const props = defineProps<{ fields: readonly Field[] }>()
const byKey = computed(() => new Map(props.fields.map((field) => [field.key, field])))
const asText = ref(false)
const text = ref('')
const formError = ref<{ message: string; at: number } | null>(null)
const box = ref<HTMLTextAreaElement | null>(null)

const top = computed(() =>
  'all' in filter.value || 'any' in filter.value
    ? (filter.value as Exclude<Filter, Condition>)
    : { all: [filter.value] },
)

async function showText(): Promise<void> {
  asText.value = true
  text.value = print(filter.value, byKey.value)
  formError.value = null
  await nextTick()
  box.value?.focus()
  box.value?.select()
}
function take(): void {
  try {
    filter.value = parse(text.value, props.fields)
    asText.value = false
  } catch (error) {
    if (!(error instanceof SentenceError)) throw error
    formError.value = { message: error.message, at: error.at }
    box.value?.focus()
    box.value?.setSelectionRange(error.at, error.at)
  }
}
watch(filter, () => {
  if (asText.value && !formError.value) text.value = print(filter.value, byKey.value)
})
const group = ref<InstanceType<typeof FilterGroup> | null>(null)
/** Asks for another condition. */
defineExpose({ add: () => group.value?.ask() })
const marked = computed(() =>
  formError.value
    ? {
        before: text.value.slice(Math.max(0, formError.value.at - 40), formError.value.at),
        after: text.value.slice(formError.value.at, formError.value.at + 40),
      }
    : null,
)
</script>

<template>
  <div class="sentence">
    <form v-if="asText" class="astext" @submit.prevent="take">
      <textarea
        ref="box"
        v-model="text"
        rows="3"
        aria-label="The filter as text"
        spellcheck="false"
        @keydown.enter.exact.prevent="take"
        @keydown.esc.stop="asText = false"
      />
      <p v-if="formError && marked" class="wrong" role="alert">
        {{ formError.message }}: <span class="dim">{{ marked.before }}</span><b>▸{{ marked.after || 'end' }}</b>
      </p>
      <div class="row foot">
        <v-btn size="small" color="primary" type="submit">Use this <kbd class="ml-2">Enter</kbd></v-btn
        ><button type="button" class="link small" @click="asText = false">Cancel</button
        ><span class="dim small">Like: stage is Attempting and last call is more than 2 days ago</span>
      </div>
    </form>
    <div v-else>
      <FilterGroup
        ref="group"
        :group="top"
        :fields="fields"
        :by-key="byKey"
        top
        @change="filter = $event ? $event : normalize({ all: [] })"
      /><button class="plain astextlink" @click="showText">Edit as text</button>
    </div>
  </div>
</template>

<style scoped>
.sentence {
  min-width: 0;
}
.astextlink {
  margin-left: 8px;
  color: var(--dim);
  font-size: 12.5px;
  text-decoration: underline;
  text-underline-offset: 2px;
}
.astext {
  display: grid;
  gap: 6px;
}
.foot {
  flex-wrap: wrap;
}
textarea {
  width: 100%;
  resize: vertical;
}
.wrong {
  color: var(--clay-deep);
  overflow-wrap: anywhere;
}
</style>

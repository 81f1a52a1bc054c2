<script setup lang="ts">
import { NodeViewWrapper, nodeViewProps } from '@tiptap/vue-3'
import { computed, ref } from 'vue'
import { useMergeFields } from '~/composables/mergeFields'

/** A merge field within a text: what it is, and what stands there for those who have no value. */
const props = defineProps(nodeViewProps)
const { labelOf } = useMergeFields()
const open = ref(false)
const name = computed(() => props.node.attrs.name as string)
const label = computed(() => labelOf(name.value))
const fallback = computed({
  get: () => (props.node.attrs.fallback as string | null) ?? '',
  set: (text) => props.updateAttributes({ fallback: text || null }),
})
</script>

<template>
  <NodeViewWrapper as="span">
    <v-menu v-model="open" :close-on-content-click="false">
      <template #activator="{ props: act }">
        <button
          v-bind="act"
          type="button"
          class="field"
          :class="{ clay: !label }"
          :title="label ? 'Set what stands here for those who have no value' : 'There is no such field'"
          :disabled="!editor.isEditable"
          contenteditable="false"
        >
          {{ label ?? name }}<span v-if="fallback" class="else"> or “{{ fallback }}”</span>
        </button>
      </template>
      <v-card class="pa-4" min-width="260">
        <v-text-field
          v-model="fallback"
          :label="`If there is no ${(label ?? name).toLowerCase()}`"
          :placeholder="props.extension.options.otherwise"
          persistent-placeholder
          maxlength="100"
          autofocus
          @keydown.enter.prevent="open = false"
        />
        <v-btn class="mt-3" size="small" variant="text" color="error" @click="deleteNode">Remove field</v-btn>
      </v-card>
    </v-menu>
  </NodeViewWrapper>
</template>

<style scoped>
.field {
  background: var(--slate-soft);
  color: var(--slate-deep);
  border: 0;
  border-radius: 4px;
  padding: 0 5px;
  font: inherit;
  line-height: 1.35;
}
.clay {
  background: var(--clay-soft);
  color: var(--clay-deep);
}
.else {
  color: var(--dim);
}
</style>

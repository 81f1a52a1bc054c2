<script setup lang="ts">
import { ref, watchEffect } from 'vue'
import type { BulkAction } from '#shared/api/bulk'
import { listTags } from '#shared/api/settings/fields'
import { call } from '~/api/call'
import { useOptions } from '~/composables/options'

const action = defineModel<BulkAction | null>({ required: true })
const props = defineProps<{ type: 'tag' | 'untag' }>()
const tag = ref('')
const tags = useOptions(() => call(listTags).then((answer) => answer.tags.map((one) => one.name)))
watchEffect(() => {
  action.value = tag.value?.trim() ? { type: props.type, tag: tag.value.trim() } : null
})
</script>

<template>
  <v-combobox v-model="tag" :items="tags" label="Tag" maxlength="60" />
</template>

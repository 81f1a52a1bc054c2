<script setup lang="ts">
/** A box to tick, with its label beside it. */
defineProps<{ label: string; readonly?: boolean }>()
const checked = defineModel<boolean>({ default: false })
</script>

<template>
  <label class="check"><input v-model="checked" type="checkbox" :disabled="readonly" />{{ label }}</label>
</template>

<style scoped>
.check {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 6px 0;
}
</style>

<script setup lang="ts">
import { ref } from 'vue'

/** The next step with someone, planned from their row. */
defineProps<{
  person: { id: string; name: string; phone: string | null; timeZone: string }
  /** Reads the table again; this is gone from the row by then. */ again: () => void
}>()
const open = ref(false)
</script>

<template>
  <button class="link" :aria-label="`Plan the next step with ${person.name}`" @click="open = true">Plan</button>
  <PlanDialog v-model="open" :person="person" :has-phone="person.phone !== null" @done="again" />
</template>

<style scoped>
.link {
  display: inline-block;
  min-height: 20px;
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import { clearError, useHead, type NuxtError } from '#app'

/** An address that leads nowhere, or a screen that failed: what happened, and two ways on. */
const props = defineProps<{ error: NuxtError }>()
const isMissing = computed(() => Number(props.error.statusCode) === 404)
const title = computed(() => (isMissing.value ? 'There is no such page' : 'This page could not be shown'))
useHead({ title })
function reload(): void {
  window.location.reload()
}
</script>

<template>
  <main class="failed" role="alert">
    <h1>{{ title }}</h1>
    <p class="dim">
      {{
        isMissing
          ? 'The address may be misspelled, or the page was moved.'
          : 'Nothing you saved is lost. Load the page again, or go on from the Desk.'
      }}
    </p>
    <p class="row mt-4">
      <button class="link" @click="clearError({ redirect: '/' })">Go to the Desk</button
      ><button v-if="!isMissing" class="link" @click="reload">Load it again</button>
    </p>
  </main>
</template>

<style scoped>
.failed {
  max-width: 34rem;
  margin: 22vh auto 0;
  padding: 0 1.5rem;
}
</style>

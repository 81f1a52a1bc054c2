<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { ref } from 'vue'
import { navigateTo, useHead, useRoute } from '#imports'
import { useSession } from '~/stores/session'

/**
 * Uphill cannot be reached while a page is loaded: says so, tries again by itself, and goes on to where someone was
 * headed.
 */
const route = useRoute()
const session = useSession()
const tries = ref(0)
useHead({ title: 'Not reachable' })

async function tryAgain(): Promise<void> {
  stop()
  try {
    await session.refresh()
    const to =
      typeof route.query.to === 'string' && route.query.to.startsWith('/') && !route.query.to.startsWith('//')
        ? route.query.to
        : '/'
    await navigateTo(to, { replace: true })
  } catch {
    tries.value++
    start()
  }
}
/** Later each time, up to 15 seconds. */
const { start, stop } = useTimeoutFn(tryAgain, () => (tries.value ? Math.min(15_000, 2_000 * tries.value) : 1_500))
</script>

<template>
  <main class="away" role="alert">
    <h1>Can’t reach Uphill</h1>
    <p class="dim">You are still signed in. This page keeps trying and takes you back to where you were.</p>
    <v-btn variant="outlined" class="mt-4" @click="tryAgain">Try now</v-btn>
  </main>
</template>

<style scoped>
.away {
  max-width: 34rem;
  margin: 22vh auto 0;
  padding: 0 1.5rem;
}
</style>

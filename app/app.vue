<script setup lang="ts">
import { onBeforeUnmount, onMounted } from 'vue'
import { useSession } from '~/stores/session'

const session = useSession()
let ticks: ReturnType<typeof setInterval>
let asks: ReturnType<typeof setInterval>
onMounted(() => {
  ticks = setInterval(session.tick, 1_000)
  asks = setInterval(() => { if (session.user && document.visibilityState === 'visible') session.refresh().catch(() => {}) }, 30_000)
})
onBeforeUnmount(() => {
  clearInterval(ticks)
  clearInterval(asks)
})
</script>

<template>
  <v-app>
    <NuxtLayout :name="['/sign-in', '/reset-password', '/unreachable'].includes($route.path) ? false : 'default'"><NuxtPage /></NuxtLayout>
    <NoticeBar />
    <SignInAgain />
  </v-app>
</template>

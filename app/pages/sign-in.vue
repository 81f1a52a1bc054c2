<script setup lang="ts">
import { navigateTo, useRoute } from '#imports'

const route = useRoute()
const enter = () =>
  navigateTo(
    typeof route.query.to === 'string' && route.query.to.startsWith('/') && !route.query.to.startsWith('//')
      ? route.query.to
      : '/',
  )
</script>

<template>
  <main class="door">
    <svg class="hill" viewBox="0 0 1280 420" preserveAspectRatio="none" aria-hidden="true">
      <path d="M0 360 L220 300 L400 316 L620 220 L820 238 L1080 96 L1280 60 L1280 420 L0 420Z" fill="#EFE9DA" />
      <path d="M0 360 L220 300 L400 316 L620 220" fill="none" stroke="#1E5B4C" stroke-width="3" />
      <path d="M620 220 L820 238 L1080 96" fill="none" stroke="#B9B19E" stroke-width="2" stroke-dasharray="6 5" />
    </svg>
    <section class="panel">
      <div class="row mb-1">
        <img src="/mark.svg" width="30" alt="" />
        <h1>Uphill</h1>
      </div>
      <p class="dim mb-5">One step after the other, until there is a meeting.</p>
      <SignInForm @done="enter" />
    </section>
  </main>
</template>

<style scoped>
.door {
  min-height: 100vh;
  display: grid;
  place-items: center;
  position: relative;
  overflow: hidden;
}
.hill {
  position: absolute;
  inset: auto 0 0 0;
  width: 100%;
  height: 56vh;
}
.panel {
  position: relative;
  width: 360px;
  padding: 26px 28px;
}
</style>

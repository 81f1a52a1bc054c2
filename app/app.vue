<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed } from 'vue'
import { useHead, useRoute } from '#imports'
import { useSession } from '~/stores/session'

const session = useSession()
const route = useRoute()
/** What each screen is called; pages about one person, company or cadence give their own title. */
const TITLES: Record<string, string> = {
  '/': 'Desk',
  '/prospects': 'Prospects',
  '/cadences': 'Cadences',
  '/deals': 'Deals',
  '/team': 'Team',
  '/imports': 'Imports',
  '/settings': 'Settings',
  '/sign-in': 'Sign in',
  '/changes': 'Bulk actions',
  '/notifications': 'Notifications',
  '/duplicates': 'Possible duplicates',
}
useHead({
  titleTemplate: (title) => (title ? `${title} · Uphill` : 'Uphill'),
  title: computed(() => TITLES[route.path] ?? TITLES[`/${route.path.split('/')[1]}`] ?? ''),
})
useIntervalFn(session.tick, 1_000)
</script>

<template>
  <v-app>
    <NuxtLayout :name="['/sign-in', '/reset-password', '/unreachable'].includes($route.path) ? false : 'default'"
      ><NuxtPage
    /></NuxtLayout>
    <NoticeBar />
    <LazySignInAgain v-if="session.ended" />
    <NuxtRouteAnnouncer />
  </v-app>
</template>

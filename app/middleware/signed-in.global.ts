import { defineNuxtRouteMiddleware, navigateTo } from '#app'
import { whenSignedOut } from '~/composables/api'
import { useSession } from '~/stores/session'

/** Asks who is signed in before the first screen, and sends those who are not to the door. */
export default defineNuxtRouteMiddleware(async (to) => {
  const session = useSession()
  if (!session.clock) {
    whenSignedOut(() => { if (session.user) session.ended = true })
    await session.refresh().catch(() => {})
  }
  if (!session.user && to.path !== '/sign-in') return navigateTo({ path: '/sign-in', query: to.fullPath === '/' ? {} : { to: to.fullPath } })
})

import { defineNuxtRouteMiddleware, navigateTo } from '#app'
import { whenSignedOut } from '~/api/call'
import { useSession } from '~/stores/session'

/** Pages for people who are not signed in. */
const OPEN = new Set(['/sign-in', '/reset-password', '/unreachable'])

/** Pages of people who are there just to call. */
const OF_CALLERS = new Set(['/', '/blocks', '/notifications', '/account'])

/**
 * Asks who is signed in before the first screen: who is not signs in first, and a temporary password is changed before
 * anything else.
 */
export default defineNuxtRouteMiddleware(async (to) => {
  const session = useSession()
  if (!session.clock) {
    whenSignedOut(() => {
      if (session.user) session.ended = true
    })
    const reached = await session.refresh().then(
      () => true,
      () => false,
    )
    if (!reached && !OPEN.has(to.path)) return navigateTo({ path: '/unreachable', query: { to: to.fullPath } })
  }
  if (session.user?.mustChangePassword && to.path !== '/account' && !OPEN.has(to.path)) return navigateTo('/account')
  if (session.onlyCalls && !OF_CALLERS.has(to.path) && !OPEN.has(to.path)) return navigateTo('/')
  if (!session.user && !OPEN.has(to.path)) {
    return navigateTo({ path: '/sign-in', query: to.fullPath === '/' ? {} : { to: to.fullPath } })
  }
})

import { manages } from '#core/roles'
import { me } from '#shared/api/session'
import { env } from '../../environment'
import { answer } from '../../http/answer'
import { unreadCount } from '../../services/notifications/notifications'
import { countProblems } from '../../services/system/problems'
import { asUser } from '../../services/access/sessions'
import { clockState } from '../../services/system/clock'
import { demoAccounts } from '../../services/system/demo'
import { getTeam } from '../../services/settings/settings'

export default answer(me, async ({ viewer }) => {
  const [clock, team, demo, problems, unread] = await Promise.all([
    clockState(),
    getTeam(),
    demoAccounts(),
    viewer && manages(viewer) ? countProblems() : 0,
    viewer ? unreadCount(viewer.id) : 0,
  ])
  return {
    user: viewer && asUser(viewer),
    problems,
    unread,
    clock,
    team: {
      name: team.name,
      timeZone: team.timeZone,
      country: team.country,
      currency: team.currency,
      callQualities: team.callQualities,
    },
    incomingCalls: env().lineUrl !== null && env().lineSecret !== null,
    demo,
  }
})

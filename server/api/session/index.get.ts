import { me } from '#shared/api/session'
import { answer } from '../../http/answer'
import { asUser } from '../../services/sessions'
import { clockState } from '../../services/clock'
import { demoAccounts } from '../../services/demo'
import { getTeam } from '../../services/settings'

export default answer(me, async ({ viewer }) => {
  const [clock, team, demo] = await Promise.all([clockState(), getTeam(), demoAccounts()])
  return {
    user: viewer && asUser(viewer),
    clock, team: { name: team.name, zone: team.zone, country: team.country }, demo,
  }
})

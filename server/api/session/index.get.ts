import { me } from '#shared/api/session'
import { answer } from '../../http/answer'
import { clockState } from '../../services/clock'
import { demoAccounts } from '../../services/demo'
import { getTeam } from '../../services/settings'

export default answer(me, async ({ viewer }) => {
  const [clock, team, demo] = await Promise.all([clockState(), getTeam(), demoAccounts()])
  return {
    user: viewer && { id: viewer.id, name: viewer.name, email: viewer.email, role: viewer.role, zone: viewer.zone },
    clock, team: { name: team.name, zone: team.zone, country: team.country }, demo,
  }
})

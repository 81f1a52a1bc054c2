import { afterAll, beforeAll } from 'vitest'
import type { Viewer } from '../../server/services/sessions'
import { caller, type Caller } from './caller'
import { addUser, startWorld } from './people'
import { serve } from './server'

/**
 * A team on a Monday morning with the API served to it: two reps, a manager, an admin, each with a key. Filled before
 * the file's first test.
 */
export interface Team {
  url: string
  rep: Viewer
  other: Viewer
  admin: Viewer
  asRep: Caller
  asOther: Caller
  asManager: Caller
  asAdmin: Caller
}

/** Sets the team up around the tests of a file. */
export function withTeam(): Team {
  const team = {} as Team
  let close = async () => {}
  beforeAll(async () => {
    await startWorld()
    const server = await serve()
    close = server.close
    const users = await Promise.all([
      addUser('rep', 'Imani Osei'),
      addUser('rep', 'Joaquin Pell'),
      addUser('manager', 'Maren Holloway'),
      addUser('admin', 'Ada Quill'),
    ])
    const [asRep, asOther, asManager, asAdmin] = (await Promise.all(users.map((user) => caller(server.url, user)))) as [
      Caller,
      Caller,
      Caller,
      Caller,
    ]
    Object.assign(team, {
      url: server.url,
      rep: users[0],
      other: users[1],
      admin: users[3],
      asRep,
      asOther,
      asManager,
      asAdmin,
    })
  })
  afterAll(() => close())
  return team
}

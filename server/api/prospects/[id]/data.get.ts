import { setResponseHeader } from 'h3'
import { exportPerson } from '#shared/api/prospects'
import { answer } from '../../../http/answer'
import { exportPerson as run } from '../../../services/prospects/erasure'

export default answer(exportPerson, async ({ viewer, params, event }) => {
  const data = await run(viewer, params.id)
  setResponseHeader(event, 'content-disposition', 'attachment; filename="person.json"')
  return data
})

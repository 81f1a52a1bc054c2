import { filterFields } from '#shared/api/lists'
import { answer } from '../../http/answer'
import { filterWorld } from '../../services/lists/filters'

export default answer(filterFields, async ({ viewer }) => {
  const { fields, timeZone } = await filterWorld(viewer)
  return {
    fields: [...fields.values()].map((field) => ({ ...field, choices: field.choices && [...field.choices] })),
    timeZone,
  }
})

import { blockChanges } from '#shared/api/blocks/work'
import { answer } from '../../../http/answer'
import { streamChanges } from '../../../http/eventStream'
import { mustSeeBlock } from '../../../services/blocks/access'
import { onBlockChange } from '../../../services/blocks/changes'

export default answer(blockChanges, async ({ viewer, params, event }) => {
  await mustSeeBlock(viewer, params.id)
  streamChanges(event, (changed) => onBlockChange(params.id, changed))
})

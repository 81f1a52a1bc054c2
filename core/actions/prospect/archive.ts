import { stopCompany } from '../../engine/moves/stopProspect'
import { actionSchema, defineAction } from '../kind/define'

/** Archives the prospect: they leave every cadence, and nothing more is planned with them. */
export const archive = defineAction({
  type: 'archive',
  label: 'Archive the prospect',
  schema: actionSchema('archive', {}),
  mayWait: true,
  apply({ context, prospect, cause }) {
    if (prospect.status === 'archived') return
    context.change('setProspectStatus', 'prospect', prospect.id, { status: 'archived' }, cause)
    stopCompany(context, [prospect], 'removed', { source: 'system_rule', rule: 'prospectStopped' })
  },
  describe: () => 'Archives the prospect',
})

import { linesReport } from '#shared/api/blocks/lines'
import { answer } from '../../../http/answer'
import { linesReport as report } from '../../../services/lines/report'

export default answer(linesReport, ({ viewer, params }) => report(viewer, params.id))

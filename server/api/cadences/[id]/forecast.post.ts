import { forecastLaunch } from '#shared/api/cadences/launch'
import { answer } from '../../../http/answer'
import { forecastLaunch as forecast } from '../../../services/cadences/launch'

export default answer(forecastLaunch, ({ viewer, params, body }) => forecast(viewer, params.id, body))

import { findAnything } from '#shared/api/find'
import { answer } from '../../http/answer'
import { findAnything as work } from '../../services/find/find'

export default answer(findAnything, ({ viewer, query }) => work(viewer, query.text))

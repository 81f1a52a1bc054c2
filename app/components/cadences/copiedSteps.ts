import { useLocalStorage } from '@vueuse/core'
import type { StepDraft } from '#shared/api/cadences/cadences'

/** Steps that were copied, to be put into this cadence or another one, in any tab of this browser. */
export const useCopiedSteps = () => useLocalStorage<StepDraft[]>('uphill copied steps', [])

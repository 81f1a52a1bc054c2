import { INBOUND } from './inbound'
import { LATER } from './later'
import { OUTBOUND } from './outbound'
import type { StarterCadence } from './starterCadence'

/** The cadences that ship, in the order in which they are offered. */
export const STARTER_CADENCES: readonly StarterCadence[] = [...OUTBOUND, ...INBOUND, ...LATER]

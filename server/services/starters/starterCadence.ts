import type { EmailType, Scope } from '#core/enumerations'
import type { UnsavedStep } from '../cadences/stepDraft'

/**
 * A cadence to start from. What only the team can say stands in double brackets; it cannot be active before that is
 * replaced. Waits are the usual practice (common practice, no published source).
 */
export interface StarterCadence {
  key: string
  name: string
  category: string
  about: string
  cold: boolean
  emailType?: EmailType
  exits: { replied: Scope; booked: Scope }
  /** Tags that filters of its ways speak of: made where they are not there yet. `tagged` stands for them until then. */
  tags?: readonly string[]
  steps: UnsavedStep[]
}

export const HELLO = 'Hello {{ first_name | default: "there" }},'

/** What stands for the id of a tag in a starter’s filters, until the tag is there. */
export const tagNamed = (name: string): string => `tag:${name}`

import type { StageKind } from '#core/enumerations'

/** A stage as it is edited: attempts as they are typed, empty for none. */
export interface StageDraft {
  kind: StageKind
  name: string
  attempts: string
  reason: boolean
  note: boolean
  fields: string[]
}

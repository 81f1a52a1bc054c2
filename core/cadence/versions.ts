import { chanceOf } from '../chance'
import type { Id } from '../instant'

/** Another text of a step, which some prospects get in place of the step’s own. */
export interface TextVersion {
  id: Id
  /** Its share among the weights of all versions; 0 for one that nobody gets any more. */
  weight: number
  subject: string
  body: string
  html: string | null
}

/** A step as far as its texts go; the step’s own is its first version, known by the step’s id. */
export interface Versioned {
  id: Id
  /** The weight of the step’s own text. */
  weight: number
  versions: readonly TextVersion[]
}

/** The most texts a step may have, its own among them. */
export const MOST_VERSIONS = 4

/** What the version at a place is called: A for the step’s own text, then B, C, D. */
export const versionName = (index: number): string => String.fromCharCode(65 + index)

/**
 * The id of the version a prospect gets: the same whenever it is asked while the weights stay, by chance as the weights
 * say across prospects. null where the step has one text only. Weights that are all 0 count as the step’s own.
 */
export function allottedVersion(step: Versioned, prospectId: Id): Id | null {
  if (!step.versions.length) return null
  const weighted = [{ id: step.id, weight: step.weight }, ...step.versions]
  const total = weighted.reduce((sum, { weight }) => sum + weight, 0)
  let place = chanceOf(`${step.id}/${prospectId}`) * total
  for (const { id, weight } of weighted) {
    place -= weight
    if (place < 0) return id
  }
  return step.id
}

/** The text of a version; the step’s own for its own id, for none, and for one that was deleted. */
export function textOfVersion<T extends { subject: string; body: string; html: string | null }>(
  step: T & { versions: readonly TextVersion[] },
  versionId: Id | null,
): Pick<TextVersion, 'subject' | 'body' | 'html'> {
  return step.versions.find(({ id }) => id === versionId) ?? step
}

/** Something wrong with a step’s versions, at the place of the version; -1 for the step’s own text. */
export interface VersionFault {
  index: number
  field: 'weight' | 'subject' | 'body'
  message: string
}

/** What is wrong with the versions of a step: too many, none that anyone gets, texts that are not whole. */
export function versionFaults(step: Versioned & { subject: string }): VersionFault[] {
  if (!step.versions.length) return []
  const faults: VersionFault[] = []
  if (step.versions.length >= MOST_VERSIONS) {
    faults.push({ index: -1, field: 'weight', message: `At most ${MOST_VERSIONS} versions` })
  }
  if (!step.weight && step.versions.every(({ weight }) => !weight)) {
    faults.push({ index: -1, field: 'weight', message: 'At least one version needs a share above 0' })
  }
  const ids = new Set([step.id, ...step.versions.map(({ id }) => id)])
  if (ids.size <= step.versions.length) {
    faults.push({ index: -1, field: 'weight', message: 'Two versions have the same id' })
  }
  const inThread = !step.subject.trim()
  step.versions.forEach(({ subject, body, html }, index) => {
    if (inThread && subject.trim()) {
      faults.push({ index, field: 'subject', message: 'This step goes on in the thread: no version has a subject' })
    }
    if (!inThread && !subject.trim()) faults.push({ index, field: 'subject', message: 'A version needs a subject' })
    if (!body.trim() && !html) faults.push({ index, field: 'body', message: 'A version needs a text' })
  })
  return faults
}

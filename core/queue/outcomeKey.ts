/** How many outcomes have a key. */
export const OUTCOME_KEYS = 20

/**
 * The key of the outcome at a place from 0: "1" to "9" and "0", then "Shift+1" to "Shift+0"; null beyond.
 */
export function outcomeKey(place: number): string | null {
  if (place >= OUTCOME_KEYS) return null
  const digit = String((place + 1) % 10)
  return place < 10 ? digit : `Shift+${digit}`
}

/** A key as it is shown beside an outcome: "3", "⇧3"; "" for none. */
export function keyShown(key: string | null): string {
  return (key ?? '').replace('Shift+', '⇧')
}

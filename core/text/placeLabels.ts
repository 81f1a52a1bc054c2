/** A word that is to stand above a point of a drawing. */
export interface Label {
  id: string
  text: string
  x: number
  /** The height of the point, downward. */
  y: number
  /** Where the text begins, where it is not centered above the point. */
  from?: number
}
/** Where text stands: its baseline and how far it reaches. */
export interface Taken {
  from: number
  to: number
  y: number
}

/**
 * Places labels, in the order given, each as close above its point as leaves all readable, beside what is there
 * already. `above` are the distances that are tried, `line` the height of a line of text, `character` the width of a
 * letter, about; all in the units of the drawing. Gives the baseline of each by its id.
 */
export function placeLabels(
  labels: readonly Label[],
  there: readonly Taken[],
  { above, line, character }: { above: readonly number[]; line: number; character: number },
): Map<string, number> {
  const taken = [...there]
  const isFree = (from: number, to: number, y: number) =>
    !taken.some((other) => from < other.to + 4 && to > other.from - 4 && Math.abs(y - other.y) < line)
  return new Map(
    labels.map((label) => {
      const width = label.text.length * character
      const from = label.from ?? label.x - width / 2
      const heights = above.map((distance) => label.y - distance).filter((y) => y > line)
      const y = heights.find((height) => isFree(from, from + width, height)) ?? heights[0] ?? line
      taken.push({ from, to: from + width, y })
      return [label.id, y]
    }),
  )
}

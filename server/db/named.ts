const names = new Map<string, string>()
const MOST = 300

/**
 * A name for a statement, so that each connection plans it once. The commonest shapes get one; the rare ones are
 * planned as they come.
 */
export function nameOf(text: string): string | undefined {
  const known = names.get(text)
  if (known || names.size >= MOST) return known
  const name = `shape-${names.size}`
  names.set(text, name)
  return name
}

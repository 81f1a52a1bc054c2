/**
 * A number from 0 up to 1 that looks like chance and is the same for the same text whenever it is asked: FNV-1a,
 * 32 bits (Fowler, Noll, Vo; IETF draft-eastlake-fnv), with the last steps of MurmurHash3 (fmix32), so that texts that
 * are alike lie far apart.
 */
export function chanceOf(text: string): number {
  let hash = 0x811c9dc5
  for (let at = 0; at < text.length; at++) hash = Math.imul(hash ^ text.charCodeAt(at), 0x01000193)
  hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b)
  hash = Math.imul(hash ^ (hash >>> 13), 0xc2b2ae35)
  return ((hash ^ (hash >>> 16)) >>> 0) / 2 ** 32
}

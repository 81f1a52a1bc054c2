/** So many times the most is still read of an upload that is too large, so that its sender gets the answer. */
const PATIENCE = 5

/**
 * Collects the bytes of an upload. `refuse` is called at its end where there are more than `most`, or earlier where
 * there is no end to it, and throws.
 */
export async function collectBytes(
  bytes: AsyncIterable<Uint8Array>,
  most: number,
  refuse: () => never,
): Promise<Buffer> {
  const chunks: Uint8Array[] = []
  let size = 0
  for await (const chunk of bytes) {
    size += chunk.length
    if (size <= most) chunks.push(chunk)
    else if (size > most * PATIENCE) refuse()
    else chunks.length = 0
  }
  if (size > most) refuse()
  return Buffer.concat(chunks)
}

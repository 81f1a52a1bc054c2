/**
 * Lets callers who ask for the same thing at about the same time share one read. A read that has begun is never given
 * to a caller who asked after it began: they share the next one. So each caller gets what was true after they asked,
 * and at most one read for each key is under way.
 */
export function shareReads<T>(read: (key: string) => Promise<T>): (key: string) => Promise<T> {
  const running = new Map<string, Promise<unknown>>()
  const waiting = new Map<string, Promise<T>>()
  const start = (key: string): Promise<T> => {
    waiting.delete(key)
    const reading = read(key)
    running.set(key, reading)
    const end = () => {
      if (running.get(key) === reading) running.delete(key)
    }
    reading.then(end, end)
    return reading
  }
  return (key) => {
    const shared = waiting.get(key)
    if (shared) return shared
    const before = running.get(key)
    if (!before) return start(key)
    const next = before.then(
      () => start(key),
      () => start(key),
    )
    waiting.set(key, next)
    return next
  }
}

import { expect, it } from 'vitest'
import { shareReads } from '../../../server/db/shareReads'

const gate = () => {
  let open = () => {}
  const opened = new Promise<void>((resolve) => {
    open = resolve
  })
  return { open, opened }
}

it('callers who ask while a read is under way share the next one, which begins after they asked', async () => {
  const gates = [gate(), gate()]
  let begun = 0
  const ask = shareReads(async (key) => {
    const mine = begun++
    await gates[mine]?.opened
    return `${key} ${mine}`
  })
  const first = ask('rep')
  const later = Array.from({ length: 20 }, () => ask('rep'))
  expect(begun).toBe(1)
  gates[0]!.open()
  expect(await first).toBe('rep 0')
  gates[1]!.open()
  expect(new Set(await Promise.all(later))).toEqual(new Set(['rep 1']))
  expect(await ask('rep')).toBe('rep 2')
  expect(begun).toBe(3)
})

it('a read that fails is the failure of those who shared it alone', async () => {
  let begun = 0
  const ask = shareReads(async () => {
    if (begun++ === 0) throw new Error('away')
    return begun
  })
  const first = ask('rep')
  const second = ask('rep')
  await expect(first).rejects.toThrow('away')
  expect(await second).toBe(2)
  expect(await ask('other')).toBe(3)
})

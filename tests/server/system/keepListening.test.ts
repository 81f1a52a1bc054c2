import { connect, createServer, type AddressInfo } from 'node:net'
import { expect, it } from 'vitest'
import { keepListening } from '../../../server/channels/mail/keepListening'
import { listenForMail } from '../../../server/channels/mail/inbound'
import '../database'

/** The first line a mail server says at the port (RFC 5321: "220 …"); null where nobody answers. */
function greeting(port: number): Promise<string | null> {
  return new Promise((resolve) => {
    const socket = connect(port, '127.0.0.1')
    socket.once('error', () => resolve(null))
    socket.once('data', (data) => {
      resolve(data.toString())
      socket.destroy()
    })
  })
}

it('a second worker on one machine takes over the port for incoming email when the first one ends', async () => {
  const errors: unknown[] = []
  const first = await listenForMail(0)
  const second = keepListening(first.port, (error) => errors.push(error), 20)
  expect(await greeting(first.port)).toMatch(/^220 /)
  await first.close()
  await expect.poll(() => greeting(first.port)).toMatch(/^220 /)
  await second.close()
  expect(await greeting(first.port)).toBeNull()
  expect(errors).toEqual([])
})

it('a worker that never gets the port ends all the same', async () => {
  const other = createServer()
  await new Promise<void>((resolve) => other.listen(0, resolve))
  const waiting = keepListening((other.address() as AddressInfo).port, () => {}, 20)
  await waiting.close()
  other.close()
})

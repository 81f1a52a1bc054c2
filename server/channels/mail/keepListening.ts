import { listenForMail } from './inbound'

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))

/**
 * Listens for incoming email at `port`. While another program of this machine has the port, that one listens; this one
 * tries again every `retryMs` milliseconds and takes over when the port is free. Other errors go to `complain`.
 */
export function keepListening(
  port: number,
  complain: (error: unknown) => void,
  retryMs = 2_000,
): { close(): Promise<void> } {
  const complainUnlessTaken = (error: unknown) => {
    if ((error as { code?: string }).code !== 'EADDRINUSE') complain(error)
  }
  let closed = false
  let server: Awaited<ReturnType<typeof listenForMail>> | null = null
  const listen = async () => {
    while (!closed && !server) {
      server = await listenForMail(port, complainUnlessTaken).catch((error: unknown) => {
        complainUnlessTaken(error)
        return null
      })
      if (!server) await pause(retryMs)
    }
  }
  const listening = listen()
  return {
    async close() {
      closed = true
      await Promise.race([listening, pause(100)])
      await server?.close()
    },
  }
}

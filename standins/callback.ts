import { createHmac, randomUUID } from 'node:crypto'

/** Where callbacks go, and what they are signed with: whsec_ and base64 (Standard Webhooks 1.0). */
export interface CallbackSettings {
  hookUrl: string
  secret: string
}

/**
 * Signs a callback and sends it; tried again a few times, under the same id, where it is not taken. Gives whether it
 * was.
 */
export async function callBack({ hookUrl, secret }: CallbackSettings, body: object): Promise<boolean> {
  const id = `cb_${randomUUID()}`
  const raw = JSON.stringify(body)
  const key = Buffer.from(secret.replace(/^whsec_/, ''), 'base64')
  for (let attempt = 0; attempt < 5; attempt++) {
    const timestamp = String(Math.floor(Date.now() / 1_000))
    const signature = createHmac('sha256', key).update(`${id}.${timestamp}.${raw}`).digest('base64')
    const response = await fetch(hookUrl, {
      method: 'POST',
      headers: {
        'content-type': 'application/json',
        'webhook-id': id,
        'webhook-timestamp': timestamp,
        'webhook-signature': `v1,${signature}`,
      },
      body: raw,
    }).catch(() => null)
    if (response?.ok) return true
    await new Promise((resolve) => setTimeout(resolve, 300 * 2 ** attempt))
  }
  return false
}

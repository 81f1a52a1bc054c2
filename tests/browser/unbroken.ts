import { expect, test as base } from '@playwright/test'

/** A test during which no screen may break: whatever the browser says of errors in our own code fails it. */
export const test = base.extend<{ unbroken: undefined }>({
  unbroken: [async ({ context }, use) => {
    const broken: string[] = []
    context.on('weberror', error => broken.push(error.error().message))
    context.on('console', (message) => {
      if (message.type() === 'error' && /\b(Type|Range|Reference|Syntax)Error\b/.test(message.text())) broken.push(message.text())
    })
    await use(undefined)
    expect(broken).toEqual([])
  }, { auto: true }],
})

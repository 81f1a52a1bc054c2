import { describe, expect, it } from 'vitest'
import { checkEnvironment } from '../../../server/environment'

const good = {
  DATABASE_URL: 'postgres://a:b@127.0.0.1/uphill',
  SMTP_URL: 'smtp://mail.example:587',
  UPHILL_SECRET: 'kjw8dk2ls9fj3nvb7qpx0zmt4ryehgua',
  UPHILL_URL: 'https://uphill.example',
}

describe('the environment', () => {
  it('is enough when all is there', () => expect(checkEnvironment(good)).toEqual([]))
  it.each(Object.keys(good))('lacks %s, and says so', (name) => {
    expect(checkEnvironment({ ...good, [name]: '' })).toEqual([expect.stringContaining(`${name} is missing`)])
  })
  it.each([
    ['short', 'abc'],
    ['monotonous', 'a'.repeat(40)],
  ])('has a %s secret, and says so', (_, secret) =>
    expect(checkEnvironment({ ...good, UPHILL_SECRET: secret })).toEqual([
      expect.stringContaining('UPHILL_SECRET is weak'),
    ]),
  )
  it.each([
    ['DATABASE_URL', 'mysql://x'],
    ['SMTP_URL', 'mail.example'],
    ['UPHILL_URL', 'uphill'],
  ])('has a %s of another kind, and says so', (name, value) =>
    expect(checkEnvironment({ ...good, [name]: value })).toEqual([
      expect.stringContaining(`${name} is not an address`),
    ]),
  )
  it('says what is missing where the gateway for texts is set in part', () => {
    expect(checkEnvironment({ ...good, TEXT_URL: 'https://texts.example', TEXT_FROM: '+16075550100' })).toEqual([
      'Text messages need TEXT_URL, TEXT_TOKEN, TEXT_SECRET and TEXT_FROM; only TEXT_URL, TEXT_FROM is set',
    ])
  })
})

import { describe, expect, it } from 'vitest'
import { keywordAnswer, textKeyword } from '../../../core/text/textKeywords'

/** CTIA, Messaging Principles and Best Practices (2023), 5.1.3: STOP, END, CANCEL, UNSUBSCRIBE, QUIT and the like. */
describe('words that a text asks with', () => {
  it.each(['STOP', 'stop', ' Stop. ', '"END"', 'Cancel!', 'UNSUBSCRIBE', 'quit', 'StopAll'])('%s ends texts', (text) =>
    expect(textKeyword(text)).toBe('stop'),
  )
  it.each(['START', 'unstop'])('%s allows them again', (text) => expect(textKeyword(text)).toBe('start'))
  it.each(['HELP', 'Info?'])('%s asks for help', (text) => expect(textKeyword(text)).toBe('help'))
  it.each(['', 'Please stop by tomorrow', 'stop it', 'The end', 'helpful', 'yes', '…'])('%j is an answer', (text) =>
    expect(textKeyword(text)).toBeNull(),
  )
  it('are answered with who writes and how to end it', () => {
    for (const keyword of ['stop', 'start', 'help'] as const) {
      expect(keywordAnswer(keyword, 'Thornwick')).toMatch(/^Thornwick: /)
    }
    expect(keywordAnswer('help', 'Thornwick')).toContain('STOP')
    expect(keywordAnswer('start', 'Thornwick')).toContain('HELP')
  })
})

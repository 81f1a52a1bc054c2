import { describe, expect, it } from 'vitest'
import { textLength, textLengthInWords } from '../../../core/text/textMessage'

const partsOf = (text: string) => textLength(text).parts

/**
 * Values of 3GPP TS 23.038 (the alphabet, its extension table) and TS 23.040, 9.2.3.24.1: 160 septets alone and 153 in
 * each of several, 70 and 67 units of UCS-2.
 */
describe('a text message', () => {
  it('holds 160 characters of the default alphabet alone, 153 in each of several', () => {
    expect(textLength('a'.repeat(160))).toEqual({ encoding: 'GSM 03.38', units: 160, perPart: 160, parts: 1 })
    expect(textLength('a'.repeat(161))).toEqual({ encoding: 'GSM 03.38', units: 161, perPart: 153, parts: 2 })
    expect([306, 307, 459, 460].map((length) => partsOf('a'.repeat(length)))).toEqual([2, 3, 3, 4])
    expect(partsOf('@£$¥èéùìòÇØøÅåΔΦΓΛΩΠΨΣΘΞÆæßÉ¤¡ÄÖÑÜ§¿äöñüà'.padEnd(160, 'x'))).toBe(1)
  })
  it('counts characters of the extension table double, and never divides one', () => {
    expect(textLength('€'.repeat(80))).toMatchObject({ units: 160, parts: 1 })
    // Of 153 septets one is left over: 76 of them in each part.
    expect([152, 153].map((count) => partsOf('€'.repeat(count)))).toEqual([2, 3])
    expect(textLength('{[~]}|^\\').units).toBe(16)
  })
  it('is UCS-2 as a whole with one character outside: 70 alone, 67 in each of several', () => {
    expect(textLength('ы'.repeat(70))).toEqual({ encoding: 'UCS-2', units: 70, perPart: 70, parts: 1 })
    expect([71, 134, 135].map((length) => partsOf('ы'.repeat(length)))).toEqual([2, 2, 3])
    expect(textLength(`${'a'.repeat(160)}’`)).toMatchObject({ encoding: 'UCS-2', units: 161, parts: 3 })
    // An emoji is two units; 33 of them and one unit to spare fill a part.
    expect([35, 36, 66, 67].map((count) => partsOf('🧀'.repeat(count)))).toEqual([1, 2, 2, 3])
  })
  it('says how long it is', () => {
    expect(textLengthInWords(textLength(''))).toBe('0 of 160 characters, 1 message')
    expect(textLengthInWords(textLength('a'.repeat(212)))).toBe('212 of 306 characters, 2 messages')
    expect(textLengthInWords(textLength('ы'))).toContain('special characters')
  })
})

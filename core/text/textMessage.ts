/**
 * The default alphabet of text messages, each character one septet (3GPP TS 23.038, 6.2.1), without the escape
 * character, which nobody can type.
 */
const DEFAULT_ALPHABET = new Set(
  '@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ !"#¤%&\'()*+,-./0123456789:;<=>?¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà',
)

/** Characters that take two septets, the first an escape (3GPP TS 23.038, 6.2.1.1). */
const EXTENSION = new Set('\f^{}\\[~]|€')

/** How a text message is sent: how many parts it takes, in which encoding, and how long it is in that encoding. */
export interface TextLength {
  encoding: 'GSM 03.38' | 'UCS-2'
  /** Septets, or 16-bit units. */
  units: number
  /** How much fits: all in one message, or in each of several. */
  perPart: number
  parts: number
}

/**
 * How many messages a text takes. With the default alphabet one holds 160 septets, each of several 153; a character
 * outside it makes the whole text UCS-2 with 70 and 67 (3GPP TS 23.038 and 23.040, 9.2.3.24.1). A character of two
 * units is never divided between parts.
 */
export function textLength(text: string): TextLength {
  const characters = [...text]
  const isDefault = characters.every((one) => DEFAULT_ALPHABET.has(one) || EXTENSION.has(one))
  const sizeOf = isDefault ? (one: string) => (EXTENSION.has(one) ? 2 : 1) : (one: string) => one.length
  const [alone, ofSeveral] = isDefault ? [160, 153] : [70, 67]
  const units = characters.reduce((sum, one) => sum + sizeOf(one), 0)
  const encoding = isDefault ? 'GSM 03.38' : 'UCS-2'
  if (units <= alone) return { encoding, units, perPart: alone, parts: units ? 1 : 0 }
  let parts = 1
  let used = 0
  for (const one of characters) {
    const size = sizeOf(one)
    if (used + size > ofSeveral) {
      parts++
      used = 0
    }
    used += size
  }
  return { encoding, units, perPart: ofSeveral, parts }
}

/** The longest text that is sent, in messages: carriers drop longer ones (common practice, no published source). */
export const MOST_PARTS = 10

/** How long a text is, in words: "212 of 306 characters, 2 messages"; with why less fits, where that is so. */
export function textLengthInWords({ encoding, units, perPart, parts }: TextLength): string {
  const room = perPart * Math.max(1, parts)
  const label = `${units} of ${room} characters, ${parts || 1} ${parts > 1 ? 'messages' : 'message'}`
  return encoding === 'UCS-2' ? `${label} (special characters or emoji make messages shorter)` : label
}

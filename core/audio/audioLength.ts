import type { AudioType } from '../enumerations'

/** How long recorded messages are, read from the bytes of the file. */

export interface Audio {
  mediaType: AudioType
  seconds: number
}

const ascii = (bytes: DataView, at: number, length: number): string => {
  let text = ''
  for (let index = at; index < at + length && index < bytes.byteLength; index++) {
    text += String.fromCharCode(bytes.getUint8(index))
  }
  return text
}

/**
 * The length of a WAV file: its data over its bytes a second (Multimedia Programming Interface and Data Specifications
 * 1.0, IBM and Microsoft 1991, "WAVE"). A size that was never filled in is that of what follows. Null for no WAV.
 */
function wavSeconds(bytes: DataView): number | null {
  if (ascii(bytes, 0, 4) !== 'RIFF' || ascii(bytes, 8, 4) !== 'WAVE') return null
  let bytesASecond = 0
  for (let at = 12; at + 8 <= bytes.byteLength;) {
    const name = ascii(bytes, at, 4)
    const size = bytes.getUint32(at + 4, true)
    const left = bytes.byteLength - at - 8
    if (name === 'fmt ' && left >= 16) bytesASecond = bytes.getUint32(at + 16, true)
    if (name === 'data') return bytesASecond ? Math.min(size, left) / bytesASecond : null
    // Chunks begin at even places.
    at += 8 + size + (size % 2)
  }
  return null
}

/** What the first packet of an OGG stream says: samples a second, and how many at the start are not played. */
function oggCodec(bytes: DataView, at: number): { rate: number; skipped: number } | null {
  // RFC 7845, 5.1: granules count samples at 48 kHz, whatever was recorded.
  if (ascii(bytes, at, 8) === 'OpusHead' && at + 12 <= bytes.byteLength) {
    return { rate: 48_000, skipped: bytes.getUint16(at + 10, true) }
  }
  // Vorbis I specification, 4.2.2.
  if (ascii(bytes, at, 7) === '\u0001vorbis' && at + 16 <= bytes.byteLength) {
    return { rate: bytes.getUint32(at + 12, true), skipped: 0 }
  }
  return null
}

/**
 * The length of an OGG file with Opus or Vorbis: the position of its last page (RFC 3533, 6), less what is not played
 * at the start. Null for none.
 */
function oggSeconds(bytes: DataView): number | null {
  let codec: ReturnType<typeof oggCodec> = null
  let last = 0n
  for (let at = 0; at + 27 <= bytes.byteLength && ascii(bytes, at, 4) === 'OggS';) {
    const segments = bytes.getUint8(at + 26)
    const body = at + 27 + segments
    if (body > bytes.byteLength) break
    if (at === 0) codec = oggCodec(bytes, body)
    // A page on which no packet ends has the position −1.
    const position = bytes.getBigInt64(at + 6, true)
    if (position > last) last = position
    let size = 0
    for (let index = 0; index < segments; index++) size += bytes.getUint8(at + 27 + index)
    at = body + size
  }
  return codec && codec.rate > 0 ? Math.max(0, Number(last) - codec.skipped) / codec.rate : null
}

/** What kind of audio a file is and how long it lasts; null where it is neither WAV nor OGG, or cannot be read. */
export function readAudio(content: Uint8Array): Audio | null {
  const bytes = new DataView(content.buffer, content.byteOffset, content.byteLength)
  const wav = wavSeconds(bytes)
  if (wav !== null) return { mediaType: 'audio/wav', seconds: wav }
  const ogg = oggSeconds(bytes)
  return ogg === null ? null : { mediaType: 'audio/ogg', seconds: ogg }
}

/** Samples from −1 to 1, at `rate` a second, as a WAV file of one channel and 16 bits. */
export function writeWav(samples: Float32Array, rate: number): Uint8Array<ArrayBuffer> {
  const header = 44
  const bytes = new DataView(new ArrayBuffer(header + samples.length * 2))
  const put = (at: number, text: string) =>
    [...text].forEach((one, index) => bytes.setUint8(at + index, one.charCodeAt(0)))
  put(0, 'RIFF')
  bytes.setUint32(4, bytes.byteLength - 8, true)
  put(8, 'WAVEfmt ')
  bytes.setUint32(16, 16, true)
  bytes.setUint16(20, 1, true)
  bytes.setUint16(22, 1, true)
  bytes.setUint32(24, rate, true)
  bytes.setUint32(28, rate * 2, true)
  bytes.setUint16(32, 2, true)
  bytes.setUint16(34, 16, true)
  put(36, 'data')
  bytes.setUint32(40, samples.length * 2, true)
  samples.forEach((sample, index) => {
    const clipped = Math.max(-1, Math.min(1, sample))
    bytes.setInt16(header + index * 2, Math.round(clipped * 32_767), true)
  })
  return new Uint8Array(bytes.buffer)
}

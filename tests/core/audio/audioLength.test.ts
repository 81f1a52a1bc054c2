import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readAudio, writeWav } from '../../../core/audio/audioLength'

const file = (name: string) => new Uint8Array(readFileSync(new URL(`../../fixtures/audio/${name}`, import.meta.url)))

describe('the length of a recorded message', () => {
  // Written by ffmpeg 5.1.9 from a tone of the length given (lavfi sine).
  it.each([
    ['tone.wav', 'audio/wav', 0.8],
    ['alaw.wav', 'audio/wav', 0.8],
    ['vorbis.ogg', 'audio/ogg', 2.5],
    ['opus.ogg', 'audio/ogg', 2.5],
  ])('%s is %s of %d seconds', (name, mediaType, seconds) => {
    const audio = readAudio(file(name))!
    expect(audio.mediaType).toBe(mediaType)
    expect(audio.seconds).toBeCloseTo(seconds, 3)
  })

  it('is that of the samples it was written from', () => {
    fc.assert(
      fc.property(
        fc.float32Array({ min: -2, max: 2, noNaN: true, maxLength: 400 }),
        fc.integer({ min: 100, max: 48_000 }),
        (samples, rate) => {
          const wav = writeWav(samples, rate)
          expect(wav.byteLength).toBe(44 + samples.length * 2)
          expect(readAudio(wav)!.seconds).toBeCloseTo(samples.length / rate, 9)
        },
      ),
    )
  })

  it('is that of what is there where the size was never filled in', () => {
    const wav = writeWav(new Float32Array(8_000), 8_000)
    new DataView(wav.buffer).setUint32(40, 0xffff_ffff, true)
    expect(readAudio(wav)!.seconds).toBe(1)
  })

  it('cannot be read from anything else, however it is cut', () => {
    expect(readAudio(new TextEncoder().encode('a note, not a voice'))).toBeNull()
    expect(readAudio(new Uint8Array())).toBeNull()
    for (const name of ['tone.wav', 'opus.ogg', 'vorbis.ogg']) {
      const whole = file(name)
      for (let length = 0; length < 200; length++) {
        const audio = readAudio(whole.subarray(0, length))
        if (audio) expect(audio.seconds).toBeGreaterThanOrEqual(0)
      }
    }
    fc.assert(fc.property(fc.uint8Array({ maxLength: 300 }), (bytes) => void readAudio(bytes)))
  })
})

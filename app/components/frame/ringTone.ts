import { useIntervalFn, useLocalStorage } from '@vueuse/core'
import { watch, type Ref } from 'vue'

/** Two notes, one after the other: their pitch in hertz, when they begin and how long they last, in seconds. */
const NOTES = [
  { pitch: 587.3, at: 0, lasts: 0.22 },
  { pitch: 440, at: 0.26, lasts: 0.34 },
]
const AGAIN_MS = 2_400
const LOUDNESS = 0.12

let context: AudioContext | null = null

/** Plays the two notes once. A browser that has not been clicked in yet stays silent. */
export function playTone(): void {
  context ??= new AudioContext()
  if (context.state === 'suspended') void context.resume().catch(() => {})
  for (const { pitch, at, lasts } of NOTES) {
    const from = context.currentTime + at
    const note = context.createOscillator()
    const volume = context.createGain()
    note.frequency.value = pitch
    volume.gain.setValueAtTime(0, from)
    volume.gain.linearRampToValueAtTime(LOUDNESS, from + 0.02)
    volume.gain.linearRampToValueAtTime(0, from + lasts)
    note.connect(volume).connect(context.destination)
    note.start(from)
    note.stop(from + lasts)
  }
}

/** Rings as long as `ringing` says, unless it was silenced in this browser; gives the switch for that. */
export function useRingTone(ringing: Ref<boolean>): Ref<boolean> {
  const isSilent = useLocalStorage('uphill-ring-silent', false)
  const { pause, resume } = useIntervalFn(
    () => {
      if (!isSilent.value) playTone()
    },
    AGAIN_MS,
    { immediate: false, immediateCallback: true },
  )
  watch(ringing, (now) => (now ? resume() : pause()), { immediate: true })
  return isSilent
}

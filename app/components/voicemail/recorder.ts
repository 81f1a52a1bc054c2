import { useTimeoutFn } from '@vueuse/core'
import { onBeforeUnmount, ref } from 'vue'
import { writeWav } from '#core/audio/audioLength'

/** The longest message, in milliseconds, and the samples a second of what is recorded: enough for a voice. */
const LONGEST = 60_000
const RATE = 16_000

/** What browsers say where there is no microphone to be had, in words. */
function whyNot(error: unknown): string {
  const name = error instanceof DOMException ? error.name : ''
  if (name === 'NotAllowedError') {
    return 'The browser does not let Uphill use the microphone. Allow it in the address bar, or choose a file.'
  }
  if (name === 'NotFoundError') return 'No microphone was found. Connect one, or choose a file.'
  return 'The microphone could not be used. Try again, or choose a file.'
}

/** One recorded sound as a WAV file of one channel, whatever the browser records in. */
async function asWav(recorded: Blob): Promise<File> {
  const context = new OfflineAudioContext(1, 1, RATE)
  const sound = await context.decodeAudioData(await recorded.arrayBuffer())
  const mixed = new OfflineAudioContext(1, Math.max(1, Math.ceil(sound.duration * RATE)), RATE)
  const source = new AudioBufferSourceNode(mixed, { buffer: sound })
  source.connect(mixed.destination)
  source.start()
  const samples = (await mixed.startRendering()).getChannelData(0).subarray(0, (LONGEST / 1_000) * RATE)
  return new File([writeWav(samples, RATE)], 'recorded.wav', { type: 'audio/wav' })
}

/**
 * Records from the microphone, for a minute at most. `done` is called with the file when it is stopped; `error` says
 * why nothing is recorded.
 */
export function useRecorder(done: (file: File) => void) {
  const recording = ref(false)
  const startedAt = ref(0)
  const error = ref('')
  let recorder: MediaRecorder | null = null

  function release(): void {
    recorder?.stream.getTracks().forEach((track) => track.stop())
    recorder = null
    recording.value = false
    cutOff.stop()
  }
  function stop(): void {
    if (recorder?.state === 'recording') recorder.stop()
  }
  const cutOff = useTimeoutFn(stop, LONGEST, { immediate: false })
  async function start(): Promise<void> {
    error.value = ''
    try {
      // Absent where the page is not served securely.
      const stream = await (navigator.mediaDevices as MediaDevices | undefined)?.getUserMedia({ audio: true })
      if (!stream) {
        error.value = 'Recording needs a secure address (https). Choose a file instead.'
        return
      }
      recorder = new MediaRecorder(stream)
    } catch (cause) {
      error.value = whyNot(cause)
      return
    }
    const parts: Blob[] = []
    recorder.ondataavailable = ({ data }) => parts.push(data)
    recorder.onstop = () => {
      release()
      asWav(new Blob(parts)).then(done, () => {
        error.value = 'Nothing was recorded. Try again, or choose a file.'
      })
    }
    recorder.start()
    startedAt.value = Date.now()
    recording.value = true
    cutOff.start()
  }
  onBeforeUnmount(() => {
    if (recorder) recorder.onstop = null
    release()
  })
  return { recording, startedAt, error, start, stop }
}

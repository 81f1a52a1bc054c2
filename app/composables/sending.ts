import { ref } from 'vue'
import { ApiError } from '../api/call'

/** What a form needs around its sending: whether it is under way, and what was refused, to be shown at the fields. */
export function useSending() {
  const formError = ref<ApiError | null>(null)
  const busy = ref(false)
  return {
    formError,
    busy,
    /**
     * Does the work; gives whether it went through. What the server refuses stays in `formError`, with everything that
     * was typed. One thing at a time: what is sent twice before there is an answer is sent once.
     */
    async send(work: () => Promise<unknown>): Promise<boolean> {
      if (busy.value) return false
      busy.value = true
      formError.value = null
      try {
        await work()
        return true
      } catch (error) {
        if (!(error instanceof ApiError)) throw error
        formError.value = error
        return false
      } finally {
        busy.value = false
      }
    },
  }
}

/** Runs what is given one after the other, in the order it came in; what fails does not stop what follows. */
export function useInTurn(): <T>(work: () => Promise<T>) => Promise<T> {
  let last: Promise<unknown> = Promise.resolve()
  return (work) => {
    const next = last.then(work, work)
    last = next
    return next
  }
}

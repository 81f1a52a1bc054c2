import { PiniaColada, useQuery } from '@pinia/colada'
import { computed, type ComputedRef } from 'vue'
import type { z } from 'zod'
import { useNuxtApp } from '#imports'
import type { Endpoint } from '#shared/api/endpoint'
import { useSession } from '~/stores/session'
import { call, messageOf, type Given } from '~/api/call'

interface Options {
  /** What is said where the server gave no reason. */
  failed: string
  /** Whether the last answer stays in sight while the next one is read; a preview must not. */
  showsLast?: boolean
}

interface Answer<E extends Endpoint> {
  /** Null where nothing is asked, and until the answer is there. */
  answer: ComputedRef<z.output<E['response']> | null>
  isLoading: ComputedRef<boolean>
  /** Why there is no answer; empty where there is one. */
  lastError: ComputedRef<string>
  readAgain: () => Promise<unknown>
}

let isInstalled = false
/** The cache of answers is fetched with the first screen that asks: shown again at once, and always read anew. */
function install(): void {
  if (isInstalled) return
  isInstalled = true
  useNuxtApp().vueApp.use(PiniaColada, { queryOptions: { staleTime: 0, refetchOnWindowFocus: false } })
}

/**
 * What an endpoint answers to what is asked at this moment; null asks nothing. Whenever that changes, it is asked anew,
 * and the request before it ends. Answers are kept for some minutes, for this user alone.
 */
export function useAnswer<E extends Endpoint>(
  endpoint: E,
  asked: () => Omit<Given<E>, 'signal'> | null,
  { failed, showsLast = false }: Options,
): Answer<E> {
  install()
  const session = useSession()
  const given = computed(asked)
  const query = useQuery<z.output<E['response']>>(() => ({
    key: [session.user?.id ?? '', endpoint.method, endpoint.path, JSON.stringify(given.value)],
    enabled: given.value !== null,
    query: ({ signal }) => call(endpoint, { ...given.value, signal } as Given<E>),
    ...(showsLast && { placeholderData: (last) => last }),
  }))
  const isLoading = computed(() => given.value !== null && query.isLoading.value)
  const isSilent = computed(() => given.value === null || (isLoading.value && !showsLast))
  return {
    answer: computed(() => (isSilent.value ? null : (query.data.value ?? null))),
    isLoading,
    lastError: computed(() => (isSilent.value ? '' : messageOf(query.error.value, failed))),
    readAgain: () => query.refetch(),
  }
}

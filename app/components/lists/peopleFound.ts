import { computed, ref, shallowRef, type Ref } from 'vue'
import type { z } from 'zod'
import { countProspects, findProspects, type CountedPeople, type List } from '#shared/api/lists'
import { call, messageOf } from '~/api/call'

type Person = z.output<typeof findProspects.response>['people'][number]
type Asked = z.input<typeof countProspects.body>

/** What people are asked for by: the question, the columns they are shown in, and their order. */
export interface PeopleQuestion {
  asked: Readonly<Ref<Asked>>
  columns: Readonly<Ref<List['columns']>>
  sort: Readonly<Ref<List['sort']>>
  /** False while there is nothing that can be asked. */
  isAskable: () => boolean
}

/** The people a list and a filter find, page by page, and how many there are. A new question ends the one under way. */
export function usePeopleFound({ asked, columns, sort, isAskable }: PeopleQuestion) {
  const people = shallowRef<Person[]>([])
  const next = ref<string | null>(null)
  const count = shallowRef<CountedPeople | null>(null)
  const busy = ref(true)
  const lastError = ref('')
  /** How many there are, in words: "about 4,210 people". */
  const inPeople = computed(() => {
    if (!count.value) return '…'
    const { exact, count: found } = count.value
    return `${exact ? '' : 'about '}${found.toLocaleString('en-US')} ${found === 1 ? 'person' : 'people'}`
  })
  let reading: AbortController | null = null
  /** What was asked for when people were last read. */
  let readFor = ''

  async function read(more = false): Promise<void> {
    if (!isAskable()) {
      people.value = []
      return
    }
    reading?.abort()
    reading = new AbortController()
    const { signal } = reading
    busy.value = true
    readFor = JSON.stringify(asked.value)
    const page = {
      ...asked.value,
      columns: columns.value.map((column) => column.key),
      sort: sort.value,
      limit: 200,
      ...(more && next.value && { after: next.value }),
    }
    try {
      const [found, counted] = await Promise.all([
        call(findProspects, { body: page, signal }),
        more ? count.value : call(countProspects, { body: asked.value, signal }),
      ])
      people.value = more ? [...people.value, ...found.people] : found.people
      next.value = found.next
      count.value = counted
      lastError.value = ''
      busy.value = false
    } catch (error) {
      if ((error as Error).name === 'AbortError') return
      lastError.value = messageOf(error, 'The people could not be read')
      busy.value = false
    }
  }
  return { people, next, count, inPeople, busy, lastError, read, isRead: () => JSON.stringify(asked.value) === readFor }
}

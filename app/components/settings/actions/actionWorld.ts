import { shallowRef } from 'vue'
import type { z } from 'zod'
import type { ActionNames } from '#core/actions/kind/define'
import { ME, type Field } from '#core/filter/fields'
import { print } from '#core/filter/sentence'
import { filterFields } from '#shared/api/lists'
import { listOutcomes } from '#shared/api/settings/outcomes'
import { call } from '~/api/call'

/** What actions can refer to and what their conditions can ask; the outcomes come along. */
export function useActionWorld() {
  const names = shallowRef<ActionNames | null>(null)
  const fields = shallowRef<readonly Field[]>([])
  async function read(): Promise<z.output<typeof listOutcomes.response>['outcomes']> {
    const [answer, asked] = await Promise.all([call(listOutcomes), call(filterFields)])
    // Nobody looks when an action is done: there is no "me".
    fields.value = asked.fields.map((field) => ({ ...field, choices: field.choices?.filter(({ id }) => id !== ME) }))
    const byKey = new Map(fields.value.map((field) => [field.key, field]))
    names.value = { ...answer.names, filterInWords: (filter) => print(filter, byKey) }
    return answer.outcomes
  }
  return { names, fields, read }
}

<script setup lang="ts">
import { reactive, ref } from 'vue'
import type { z } from 'zod'
import { listSources, removeSource, saveSource } from '#shared/api/settings/settings'
import { ApiError, call } from '~/api/call'
import { readMoney, useMoney } from '~/composables/money'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** Where people come from: what each source cost, what else it is called in files, and what it brought. */
type Source = z.output<typeof listSources.response>['sources'][number]
const session = useSession()
const notices = useNotices()
const sources = ref<Source[]>([])
const draft = reactive({ name: '', cost: '', aliases: '', open: null as string | null, formError: '' })
async function read(): Promise<void> {
  sources.value = (await call(listSources)).sources
}
function edit(source: Source | null): void {
  Object.assign(draft, {
    open: source?.name ?? '',
    name: source?.name ?? '',
    cost: source ? String(source.cost) : '',
    aliases: source?.aliases.join('; ') ?? '',
    formError: '',
  })
}
async function act(work: () => Promise<string>): Promise<void> {
  draft.formError = ''
  try {
    notices.say(await work())
    draft.open = null
    await read()
  } catch (error) {
    draft.formError =
      error instanceof ApiError ? (error.problems[0]?.message ?? error.message) : 'This could not be saved'
  }
}
const save = () =>
  act(async () => {
    const cost = readMoney(draft.cost) ?? 0
    if (Number.isNaN(cost)) throw new ApiError('invalid', 'Enter the cost as a number')
    const { people } = await call(saveSource, {
      params: { name: draft.name.trim() },
      body: {
        cost,
        aliases: draft.aliases
          .split(';')
          .map((alias) => alias.trim())
          .filter(Boolean),
      },
    })
    return people
      ? `Saved; ${people} ${people === 1 ? 'prospect moved' : 'prospects moved'} to it from its aliases.`
      : 'Saved.'
  })
const money = useMoney()
const each = (source: Source, count: number) => (source.cost && count ? money.show(source.cost / count) : '')
// The settings wait until all their tables are there, so that nothing moves.
await read().catch(notices.error)
</script>

<template>
  <section>
    <h2>Sources</h2>
    <p class="dim mb-2">Where people come from. Aliases are what files call the same source.</p>
    <div v-if="sources.length" class="scroll">
      <table class="sheet">
        <thead>
          <tr>
            <th>Source</th>
            <th>Aliases</th>
            <th class="right">Cost</th>
            <th class="right">People</th>
            <th class="right">Meetings</th>
            <th class="right">Cost per meeting</th>
            <th class="right">Won deals</th>
            <th />
          </tr>
        </thead>
        <tbody>
          <tr v-for="source in sources" :key="source.name">
            <td>
              <NuxtLink :to="{ path: '/prospects', query: { filter: `source is &quot;${source.name}&quot;` } }">{{
                source.name
              }}</NuxtLink>
            </td>
            <td class="dim">{{ source.aliases.join(', ') }}</td>
            <td class="num right">{{ source.cost ? money.show(source.cost) : '' }}</td>
            <td class="num right">{{ source.people.toLocaleString('en-US') }}</td>
            <td class="num right">{{ source.meetings.toLocaleString('en-US') }}</td>
            <td class="num right">{{ each(source, source.meetings) }}</td>
            <td class="num right">{{ source.deals.toLocaleString('en-US') }}</td>
            <td class="acts">
              <template v-if="session.manages"
                ><button class="link small" @click="edit(source)">Edit</button
                ><button
                  v-if="!source.people"
                  class="link small ml-2"
                  @click="
                    act(async () => {
                      await call(removeSource, { params: { name: source.name } })
                      return 'Removed.'
                    })
                  "
                >
                  Remove
                </button></template
              >
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-else class="dim">No sources yet. Imports and new prospects add them.</p>
    <form v-if="draft.open !== null" class="row mt-3 wrap" @submit.prevent="save">
      <v-text-field v-model="draft.name" label="Source" :readonly="draft.open !== ''" /><v-text-field
        v-model="draft.cost"
        label="Cost"
        inputmode="decimal"
      /><v-text-field v-model="draft.aliases" label="Aliases, separated by ;" /><v-btn
        type="submit"
        variant="outlined"
        :disabled="!draft.name.trim()"
        >Save</v-btn
      ><v-btn variant="text" @click="draft.open = null">Cancel</v-btn>
    </form>
    <button v-else-if="session.manages" class="link mt-2" @click="edit(null)">Add a source</button>
    <p v-if="draft.formError" class="notice clay mt-2" role="alert">{{ draft.formError }}</p>
  </section>
</template>

<style scoped>
section {
  margin-bottom: 34px;
}
.scroll {
  overflow-x: auto;
}
.right {
  text-align: right;
}
.acts {
  text-align: right;
  white-space: nowrap;
}
.wrap {
  flex-wrap: wrap;
}
.wrap > .v-input {
  min-width: 150px;
}
</style>

<script setup lang="ts">
import { reactive, ref, shallowRef } from 'vue'
import { WINDOW_CLOCKS, WINDOW_HOLIDAYS, choicesOf } from '#core/enumerations'
import {
  addSendingWindow,
  editSendingWindow,
  listSendingWindows,
  removeSendingWindow,
  type SendingWindow,
} from '#shared/api/email/sending'
import { call } from '~/api/call'
import { useDayHours, WEEKDAYS } from '~/composables/dayHours'
import { useSending } from '~/composables/sending'
import { windowInWords } from './windowInWords'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'
import { useTimes } from '~/composables/times'

/** The sending windows by name: when email of the cadences that use each may go out. */
const session = useSession()
const notices = useNotices()
const times = useTimes()
const { formError, busy, send } = useSending()
const dayHours = useDayHours()
const windows = shallowRef<readonly SendingWindow[]>([])
const EMPTY = {
  name: '',
  days: [1, 2, 3, 4, 5],
  from: 480,
  to: 1020,
  clock: 'prospect' as SendingWindow['clock'],
  holidays: 'prospect' as SendingWindow['holidays'],
  isDefault: false,
}
const draft = reactive({ ...EMPTY })
const editing = ref<SendingWindow | 'new' | null>(null)
async function read(): Promise<void> {
  windows.value = (await call(listSendingWindows)).windows
}
function edit(window: SendingWindow | 'new'): void {
  const { name, days, from, to, clock, holidays, isDefault } = window === 'new' ? EMPTY : window
  Object.assign(draft, { name, days: [...days], from, to, clock, holidays, isDefault })
  formError.value = null
  editing.value = window
}
async function save(): Promise<void> {
  const { isDefault, ...content } = draft
  const window = editing.value!
  const saved = await send(() =>
    window === 'new'
      ? call(addSendingWindow, { body: content })
      : call(editSendingWindow, {
          params: { id: window.id },
          body: { ...content, isDefault, version: window.version },
        }),
  )
  if (!saved) return
  editing.value = null
  notices.say('Saved.')
  await read().catch(notices.error)
}
async function remove(window: SendingWindow): Promise<void> {
  try {
    await call(removeSendingWindow, { params: { id: window.id } })
    notices.say(`“${window.name}” is deleted.`)
    await read()
  } catch (error) {
    notices.error(error)
  }
}
await read().catch(notices.error)
</script>

<template>
  <section>
    <h2>Sending windows</h2>
    <p class="dim mb-2">
      When cadence email may be sent. Each cadence names its window; a change here applies to all of them.
    </p>
    <table class="sheet">
      <thead>
        <tr>
          <th>Window</th>
          <th>Open</th>
          <th>Used by</th>
          <th><span class="sr">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="window in windows" :key="window.id">
          <td class="name">
            <b>{{ window.name }}</b><span v-if="window.isDefault" class="chip ml-2">default</span>
          </td>
          <td>{{ windowInWords(window, times) }}</td>
          <td>
            <template v-for="(cadence, index) in window.cadences" :key="cadence.id"
              ><template v-if="index">, </template
              ><NuxtLink :to="`/cadences/${cadence.id}`">{{ cadence.name }}</NuxtLink></template
            ><span v-if="!window.cadences.length" class="dim">no cadence</span>
          </td>
          <td class="acts">
            <template v-if="session.manages"
              ><button class="link small" :aria-label="`Edit ${window.name}`" @click="edit(window)">Edit</button
              ><button
                v-if="!window.cadences.length && !window.isDefault"
                class="link small ml-3"
                :aria-label="`Delete ${window.name}`"
                @click="remove(window)"
              >
                Delete
              </button></template
            >
          </td>
        </tr>
      </tbody>
    </table>
    <button v-if="session.manages" class="link mt-2" @click="edit('new')">Add a window</button>

    <v-dialog
      :model-value="editing !== null"
      max-width="560"
      aria-label="Sending window"
      @update:model-value="editing = null"
    >
      <v-card v-if="editing" class="pa-5">
        <form class="form" novalidate @submit.prevent="save">
          <h2>{{ editing === 'new' ? 'A new sending window' : `Change “${editing.name}”` }}</h2>
          <p v-if="editing !== 'new' && editing.cadences.length" class="dim">
            Used by {{ editing.cadences.map(({ name }) => name).join(', ') }}.
          </p>
          <v-text-field
            v-model="draft.name"
            v-focus
            label="Name"
            maxlength="60"
            :error-messages="formError?.at('name')"
          />
          <div class="days">
            <label v-for="(day, index) in WEEKDAYS" :key="day" class="day"
              ><input v-model="draft.days" type="checkbox" :value="index + 1" />{{ day }}</label
            >
          </div>
          <p v-if="formError?.at('days')" class="clay small" role="alert">{{ formError.at('days') }}</p>
          <div class="row">
            <v-select v-model="draft.from" :items="dayHours" label="From" /><v-select
              v-model="draft.to"
              :items="dayHours"
              label="To"
              :error-messages="formError?.at('to')"
            />
          </div>
          <div class="row">
            <v-select v-model="draft.clock" :items="choicesOf(WINDOW_CLOCKS)" label="By the clock of" /><v-select
              v-model="draft.holidays"
              :items="choicesOf(WINDOW_HOLIDAYS)"
              label="Closed on holidays of"
            />
          </div>
          <CheckBox
            v-if="editing !== 'new' && !editing.isDefault"
            v-model="draft.isDefault"
            label="The default for new cadences"
          />
          <p v-if="formError && !formError.problems.length" class="clay" role="alert">{{ formError.message }}</p>
          <FormFooter action="Save" :busy="busy" @cancel="editing = null" />
        </form>
      </v-card>
    </v-dialog>
  </section>
</template>

<style scoped>
section {
  margin-bottom: 34px;
}
.name {
  white-space: nowrap;
}
.name {
  white-space: nowrap;
}
.acts {
  text-align: right;
  white-space: nowrap;
}
.form {
  display: grid;
  gap: 12px;
}
.days {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
}
.day {
  display: flex;
  gap: 4px;
  align-items: center;
}
</style>

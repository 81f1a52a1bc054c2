<script setup lang="ts">
import { ref, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import { listStarters, takeStarters } from '#shared/api/settings/setup'
import { forReading } from '#core/filter/sentence'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'

/** Lists and cadences that come with Uphill, to be taken or left. */
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ done: [] }>()
const notices = useNotices()
const { formError, busy, send } = useSending()
const found = shallowRef<z.output<typeof listStarters.response> | null>(null)
const lists = ref<string[]>([])
const cadences = ref<string[]>([])
watch(
  open,
  async (now) => {
    if (!now) return
    await send(async () => {
      found.value = await call(listStarters)
    })
    lists.value = found.value?.lists.filter((one) => !one.taken).map((one) => one.key) ?? []
    cadences.value = []
  },
  { immediate: true },
)
const several = (count: number, noun: string) => `${count} ${noun}${count === 1 ? '' : 's'}`
const save = () =>
  send(async () => {
    const made = await call(takeStarters, { body: { lists: lists.value, cadences: cadences.value } })
    notices.say(
      [made.lists && several(made.lists, 'list'), made.cadences.length && several(made.cadences.length, 'cadence')]
        .filter(Boolean)
        .join(' and ')
        .concat(made.lists || made.cadences.length ? ' added.' : 'Nothing was added.'),
    )
    open.value = false
    emit('done')
  })
</script>

<template>
  <v-dialog v-model="open" max-width="640" aria-label="Lists and cadences to start from" scrollable>
    <v-card class="pa-5">
      <form class="form" @submit.prevent="save">
        <h2>Lists and cadences to start from</h2>
        <p v-if="!found && !formError" class="dim" role="status">Loading …</p>
        <div v-if="found" class="choices">
          <h3>Cadences, as drafts</h3>
          <p class="dim small">Replace the text in [[double brackets]], then activate the cadence.</p>
          <label v-for="one in found.cadences" :key="one.key"
            ><input v-model="cadences" type="checkbox" :value="one.key" :disabled="one.taken" /><span
              ><b>{{ one.name }}</b> <span class="dim">{{ one.taken ? 'already added' : one.about }}</span></span
            ></label
          >
          <h3 class="mt-3">Lists, for everyone</h3>
          <label v-for="one in found.lists" :key="one.key"
            ><input v-model="lists" type="checkbox" :value="one.key" :disabled="one.taken" /><span
              ><b>{{ one.name }}</b>
              <span class="dim ml-1">{{ one.taken ? 'already added' : forReading(one.sentence) }}</span></span
            ></label
          >
        </div>
        <FormFooter
          action="Add"
          :disabled="!lists.length && !cadences.length"
          :busy="busy"
          :form-error="formError"
          @cancel="open = false"
        />
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
}
.choices {
  max-height: 62vh;
  overflow-y: auto;
  display: grid;
  gap: 2px;
}
label {
  display: grid;
  grid-template-columns: 20px minmax(0, 1fr);
  gap: 6px;
  padding: 4px 0;
  cursor: pointer;
}
label b {
  font-weight: 600;
}
</style>

<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { z } from 'zod'
import { mergeFieldsInWords } from '#core/text/mergeFields'
import { listCadences } from '#shared/api/cadences/cadences'
import { enroll } from '#shared/api/cadences/enrollments'
import { call, messageOf } from '~/api/call'
import { useNotices } from '~/stores/notices'

/** Enrolls people, saying beforehand how many it takes and whom it leaves out and why. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ prospectIds?: string[]; importId?: string }>()
const emit = defineEmits<{ done: [] }>()
const notices = useNotices()
const cadences = ref<{ id: string; name: string; status: string }[]>([])
const cadenceId = ref<string | null>(null)
const look = ref<z.output<typeof enroll.response> | null>(null)
const lastError = ref('')
const busy = ref(false)
const who = computed(() => (props.importId ? { importId: props.importId } : { prospectIds: props.prospectIds ?? [] }))
watch(open, async (now) => {
  if (!now) return
  look.value = null
  lastError.value = ''
  cadences.value = await call(listCadences).then(
    (answer) => answer.cadences.filter((cadence) => cadence.status === 'active'),
    () => [],
  )
  cadenceId.value = cadences.value[0]?.id ?? null
  await preview()
})
async function preview(): Promise<void> {
  look.value = null
  if (!cadenceId.value) return
  try {
    look.value = await call(enroll, { params: { id: cadenceId.value }, body: { ...who.value, dryRun: true } })
    lastError.value = ''
  } catch (error) {
    lastError.value = messageOf(error, 'That could not be looked up')
  }
}
const unowned = computed(() => look.value?.senders.reduce((sum, one) => sum + one.unowned, 0) ?? 0)
async function run(): Promise<void> {
  if (busy.value) return
  if (!cadenceId.value) return
  busy.value = true
  try {
    const done = await call(enroll, { params: { id: cadenceId.value }, body: { ...who.value, dryRun: false } })
    notices.say(`${done.enrolled} enrolled${done.refusedCount ? `, ${done.refusedCount} skipped` : ''}.`)
    open.value = false
    emit('done')
  } catch (error) {
    lastError.value = messageOf(error, 'That did not work')
  }
  busy.value = false
}
</script>

<template>
  <v-dialog v-model="open" max-width="560" aria-label="Enroll in a cadence">
    <v-card class="pa-5">
      <h2 class="mb-3">Enroll in a cadence</h2>
      <v-select
        v-if="cadences.length"
        v-model="cadenceId"
        :items="cadences"
        item-title="name"
        item-value="id"
        label="Cadence"
        @update:model-value="preview"
      />
      <p v-else class="dim">
        There is no active cadence yet. <NuxtLink to="/cadences" class="link">Make one</NuxtLink>
      </p>
      <p v-if="lastError" class="notice clay mt-3" role="alert">{{ lastError }}</p>
      <template v-if="look">
        <p class="mt-4">
          <b class="num">{{ look.enrolled }}</b> will be enrolled<template v-if="look.refusedCount"
            >, <b class="num">{{ look.refusedCount }}</b> skipped:</template
          ><template v-else>.</template>
        </p>
        <p v-if="look.enrolled" class="small mt-1">
          Sent and called by {{ look.senders.map((one) => `${one.name} (${one.people})`).join(', ') }}.
        </p>
        <p v-if="unowned" class="notice mt-2">
          {{ unowned }} {{ unowned === 1 ? 'has' : 'have' }} no owner: you would send their email and make their calls.
          Assign them first with Change … in the list.
        </p>
        <p v-for="lack in look.missing" :key="lack.field" class="notice mt-2">
          <b class="num">{{ lack.people }}</b> {{ lack.people === 1 ? 'has' : 'have' }} no
          {{ mergeFieldsInWords([lack.field]) }}:
          {{ lack.people === 1 ? 'that email waits' : 'those emails wait' }} until it is filled in.
        </p>
        <ul v-if="look.refusedCount" class="left">
          <li v-for="one in look.refused" :key="one.prospectId">
            <span>{{ one.name }}</span><span class="dim">{{ one.why }}</span>
          </li>
        </ul>
      </template>
      <FormFooter
        :action="`Enroll ${look?.enrolled ?? ''}`"
        :disabled="!look?.enrolled"
        :busy="busy"
        class="mt-4"
        @act="run"
        @cancel="open = false"
      />
    </v-card>
  </v-dialog>
</template>

<style scoped>
.left {
  list-style: none;
  padding: 0;
  margin: 8px 0 0;
  max-height: 260px;
  overflow: auto;
  border-top: 1px solid var(--line);
}
.left li {
  display: grid;
  grid-template-columns: 1fr 1.4fr;
  gap: 12px;
  padding: 5px 2px;
  border-bottom: 1px solid var(--line);
}
</style>

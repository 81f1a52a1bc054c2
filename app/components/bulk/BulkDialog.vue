<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { watchDebounced } from '@vueuse/core'
import type { Filter } from '#core/filter/filter'
import { previewBulk, startBulk, type BulkAction } from '#shared/api/bulk'
import { newId } from '#shared/newId'
import { useAnswer } from '~/composables/answer'
import { call, messageOf } from '~/api/call'
import { useSession } from '~/stores/session'
import { BULK_ACTIONS, wordsOf } from './bulkActions'

/**
 * One action for many people: says beforehand whom it changes and whom it skips, then shows how far it is, then the
 * result.
 */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  whom: { prospectIds?: string[]; filter?: Filter; list?: string; search?: string }
  count: number
}>()
const emit = defineEmits<{ done: [] }>()
const session = useSession()
const choices = Object.entries(BULK_ACTIONS)
  .filter(([, { managers }]) => !managers || session.manages)
  .map(([value, { title }]) => ({ value, title }))
const type = ref<BulkAction['type']>('enroll')
const action = shallowRef<BulkAction | null>(null)
const startedId = ref<string | null>(null)
const formError = ref('')
const busy = ref(false)

watch(type, () => {
  action.value = null
})
watch(open, (now) => {
  if (!now) return
  startedId.value = null
  action.value = null
})
/** The action as it was when typing stopped. */
const settled = shallowRef<BulkAction | null>(null)
watchDebounced(
  action,
  (now) => {
    settled.value = now
  },
  { debounce: 250 },
)
const { answer: preview, lastError: previewError } = useAnswer(
  previewBulk,
  () =>
    action.value && settled.value === action.value && open.value && !startedId.value
      ? { body: { action: action.value, ...props.whom } }
      : null,
  { failed: 'That could not be looked up' },
)
watch([action, open], () => {
  formError.value = ''
})
async function start(): Promise<void> {
  if (busy.value) return
  busy.value = true
  try {
    const body = { id: newId(), action: action.value!, ...props.whom }
    startedId.value = (await call(startBulk, { body })).id
  } catch (error) {
    formError.value = messageOf(error, 'It could not be started')
  }
  busy.value = false
}
/** What is wrong, without the name of the field in front: what is asked stands right above. */
const fault = computed(() => (formError.value || previewError.value).replace(/^[\w.]+: /, ''))
const people = (count: number) => `${count.toLocaleString('en-US')} ${count === 1 ? 'person' : 'people'}`
const written = computed(() => (action.value?.type === 'email' ? action.value : null))
</script>

<template>
  <v-dialog v-model="open" :max-width="type === 'actions' ? 880 : 580" aria-label="Bulk action" scrollable>
    <v-card class="pa-5">
      <h2 class="mb-3">{{ wordsOf(type).heading }} {{ people(count) }}</h2>
      <form v-if="!startedId" class="stack" @submit.prevent="start">
        <v-select v-model="type" :items="choices" label="Action" />
        <component :is="BULK_ACTIONS[type].fields" :key="type" v-model="action" v-bind="BULK_ACTIONS[type].props" />
        <p v-if="formError || previewError" class="notice clay" role="alert">{{ fault }}</p>
        <div v-if="preview" role="status">
          <p>
            <b>{{ people(preview.touches) }}</b> {{ wordsOf(type).will
            }}<template v-if="preview.mail"
              >: {{ preview.mail.customers.toLocaleString('en-US') }} at customers,
              {{ preview.mail.prospects.toLocaleString('en-US') }} others</template
            ><template v-if="preview.shares.length"
              >:
              {{
                preview.shares.map((one) => `${one.name} ${one.people.toLocaleString('en-US')}`).join(', ')
              }}</template
            >.
          </p>
          <BulkEmailExample v-if="preview.mail && written" :email="written" :examples="preview.mail.examples" />
        </div>
        <p v-else-if="!formError && !previewError" class="dim">
          {{ action ? 'Counting …' : 'Nothing happens yet: who it is for and who is skipped is shown here first.' }}
        </p>
        <LeftOut :left-out="preview?.leftOut ?? []" />
        <FormFooter
          :action="`${wordsOf(type).button} ${preview ? people(preview.touches) : ''}`"
          :disabled="!preview?.touches"
          :busy="busy"
          @cancel="open = false"
        />
      </form>
      <BulkResult v-else :id="startedId" @done="emit('done')" @close="open = false" />
    </v-card>
  </v-dialog>
</template>

<script setup lang="ts">
import { ref, watch } from 'vue'
import type { z } from 'zod'
import { editBlock, type Block } from '#shared/api/blocks/blocks'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'

/** Changes a call block: also who calls, which hands what is left to others. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ block: Block }>()
const emit = defineEmits<{ done: [] }>()
const notices = useNotices()
const { formError, busy, send } = useSending()
type Content = Omit<z.input<typeof editBlock.body>, 'version'>
const draft = ref<Content | null>(null)
watch(
  open,
  (now) => {
    if (!now) return
    const { name, purpose, script, callerIds, dueOn, target, targetOf, sort } = props.block
    const { phoneKinds, phoneStatuses, phoneTags, payBasis, payRate } = props.block
    const about = { name, purpose, script, callerIds: [...callerIds], dueOn, target, targetOf, sort }
    const { lines, campaign, callBackMessage, leavesMessages } = props.block
    const dialed = { lines, campaign, callBackMessage, leavesMessages }
    draft.value = { ...about, phoneKinds, phoneStatuses, phoneTags, payBasis, payRate, ...dialed }
    formError.value = null
  },
  { immediate: true },
)
const save = () =>
  send(async () => {
    const body = { ...draft.value!, target: draft.value!.target || null, dueOn: draft.value!.dueOn || null }
    await call(editBlock, { params: { id: props.block.id }, body: { ...body, version: props.block.version } })
    notices.say('Saved.')
    open.value = false
    emit('done')
  })
</script>

<template>
  <v-dialog v-model="open" max-width="720" scrollable aria-label="Edit call block">
    <v-card v-if="draft" class="pa-5">
      <form novalidate @submit.prevent="save">
        <h2 class="mb-3">Edit “{{ block.name }}”</h2>
        <BlockForm v-model="draft" :form-error="formError" />
        <p class="dim small mt-3">
          Callers who are taken off give back those they have not called yet: the others call them.
        </p>
        <p v-if="formError && !formError.problems.length" class="clay mt-2" role="alert">{{ formError.message }}</p>
        <FormFooter action="Save" :busy="busy" class="mt-4" @cancel="open = false" />
      </form>
    </v-card>
  </v-dialog>
</template>

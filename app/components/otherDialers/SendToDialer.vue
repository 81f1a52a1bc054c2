<script setup lang="ts">
import { computed, reactive } from 'vue'
import { addExport } from '#shared/api/blocks/otherDialers'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'

/** Sends those of a block who are still to call to another dialer. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ blockId: string; count: number; dialers: readonly string[] }>()
const emit = defineEmits<{ done: [] }>()
const notices = useNotices()
const { formError, busy, send } = useSending()
const given = reactive({
  dialer: props.dialers[0] ?? '',
  callerNumbers: [] as string[],
  message: '',
  tags: [] as string[],
})
/** Sent once, however often the button is pressed. */
const id = newId()
const people = computed(() => `${props.count.toLocaleString('en-US')} ${props.count === 1 ? 'person' : 'people'}`)
const numberError = computed(() => formError.value?.problems.find(({ field }) => field.startsWith('callerNumbers')))
const save = () =>
  send(async () => {
    const made = await call(addExport, { params: { id: props.blockId }, body: { id, ...given } })
    const skipped = made.skipped ? ` ${made.skipped} skipped: see the block.` : ''
    notices.say(`${made.people.toLocaleString('en-US')} sent to ${given.dialer}. Download the file.${skipped}`)
    open.value = false
    emit('done')
  })
</script>

<template>
  <v-dialog v-model="open" max-width="560" aria-label="Send to another dialer">
    <v-card class="pa-5">
      <form class="form" novalidate @submit.prevent="save">
        <h2>Send {{ people }} to another dialer</h2>
        <p class="dim small">
          Nobody here calls them until a result comes back. Each person shows where they are, and since when.
        </p>
        <v-combobox
          v-model="given.dialer"
          :items="dialers"
          label="Dialer"
          placeholder="what you call it"
          persistent-placeholder
          :error-messages="formError?.at('dialer')"
        />
        <v-combobox
          v-model="given.callerNumbers"
          multiple
          chips
          closable-chips
          label="Numbers to call from"
          hint="Press Enter after each. They are used in turn; none for the dialer’s own."
          persistent-hint
          :error-messages="numberError?.message"
        />
        <v-textarea
          v-model="given.message"
          label="Voicemail message (optional)"
          rows="2"
          auto-grow
          maxlength="2000"
          :error-messages="formError?.at('message')"
        />
        <v-combobox
          v-model="given.tags"
          multiple
          chips
          closable-chips
          label="Tags to add (optional)"
          :error-messages="formError?.at('tags')"
        />
        <p v-if="formError && !formError.problems.length" class="clay" role="alert">{{ formError.message }}</p>
        <FormFooter :action="`Send ${people}`" :busy="busy" @cancel="open = false" />
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 14px;
}
</style>

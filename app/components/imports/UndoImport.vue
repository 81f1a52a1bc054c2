<script setup lang="ts">
import { ref, watch } from 'vue'
import type { Filter } from '#core/filter/filter'
import { previewBulk, startBulk, type BulkAction } from '#shared/api/bulk'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'

/**
 * Undoes an import: the people it added are archived, as a bulk action that can itself be undone; anyone who was
 * contacted stays.
 */
const props = defineProps<{ importId: string }>()
const open = defineModel<boolean>({ required: true })
const notices = useNotices()
const { formError, busy, send } = useSending()
const count = ref<number | null>(null)
const action: BulkAction = { type: 'work', status: 'archived', reason: 'Import undone' }
const filter = (): Filter => ({
  all: [
    { field: 'import', test: { op: 'anyOf', values: [props.importId] } },
    { field: 'lastTouch', test: { op: 'unset' } },
  ],
})
watch(open, async (now) => {
  if (!now) return
  count.value = null
  await send(async () => {
    count.value = (await call(previewBulk, { body: { action, filter: filter() } })).touches
  })
})
const undo = () =>
  send(async () => {
    await call(startBulk, { body: { id: newId(), action, filter: filter() } })
    open.value = false
    notices.say('The import is being undone. It goes on when you leave; see Bulk actions for the result.')
  })
const people = (count: number) => `${count.toLocaleString('en-US')} ${count === 1 ? 'person' : 'people'}`
</script>

<template>
  <v-dialog v-model="open" max-width="460" aria-label="Undo this import">
    <v-card class="pa-5">
      <h2>Undo this import?</h2>
      <p class="my-3" role="status">
        {{
          count === null
            ? 'Counting …'
            : count
              ? `${people(count)} it added will be archived: out of lists, off the Desk, nothing more goes to them.`
              : 'Nobody it added is left to archive.'
        }}
      </p>
      <p class="dim small mb-3">
        Those who have been contacted stay. What it filled in for prospects you already had stays too. You can undo this
        under Bulk actions.
      </p>
      <FormFooter
        :action="`Archive ${count ? people(count) : ''}`"
        :disabled="!count"
        :busy="busy"
        :form-error="formError"
        @act="undo"
        @cancel="open = false"
      />
    </v-card>
  </v-dialog>
</template>

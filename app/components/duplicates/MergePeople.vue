<script setup lang="ts">
import { ref, watch } from 'vue'
import { mergePairs, undoMerge } from '#shared/api/duplicates'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'

/** Makes one person of several who were selected. */
const props = defineProps<{
  people: readonly { id: string; name: string; company: { name: string } | null; title: string | null }[]
}>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ done: [] }>()
const notices = useNotices()
const primaryId = ref('')
const { formError, busy, send } = useSending()
watch(open, () => {
  formError.value = null
  primaryId.value = props.people[0]?.id ?? ''
})
const merge = () =>
  send(async () => {
    const primaryName = props.people.find((person) => person.id === primaryId.value)!.name
    const pairs = props.people
      .filter((person) => person.id !== primaryId.value)
      .map((person) => ({ id: newId(), primaryId: primaryId.value, duplicateId: person.id }))
    const { merged, failed } = await call(mergePairs, { body: { pairs } })
    const done = pairs.filter((pair) => !failed.some((one) => one.id === pair.id))
    notices.say([`${primaryName}: ${merged} merged.`, ...failed.map((one) => one.message)].join(' '), {
      label: 'Undo',
      run: () => void undo(done.map((pair) => pair.id)),
    })
    open.value = false
    emit('done')
  })
async function undo(ids: string[]): Promise<void> {
  try {
    // The last one first: each is undone as it was made.
    for (const id of ids.reverse()) await call(undoMerge, { params: { id } })
    notices.say('Undone.')
  } catch (error) {
    notices.error(error)
  }
  emit('done')
}
</script>

<template>
  <v-dialog v-model="open" max-width="520" aria-label="Merge people">
    <v-card class="pa-5">
      <form @submit.prevent="merge">
        <h2>Merge {{ people.length }} people into one</h2>
        <p class="dim mb-3">
          Everything of the others moves to the person you keep: touches, tasks, cadences, email, deals, notes, tags and
          lists. You can undo it.
        </p>
        <v-radio-group v-model="primaryId" label="Keep">
          <v-radio
            v-for="person in people"
            :key="person.id"
            :value="person.id"
            :label="[person.name, person.title, person.company?.name].filter(Boolean).join(', ')"
          />
        </v-radio-group>
        <FormFooter action="Merge" :busy="busy" :form-error="formError" class="mt-3" @cancel="open = false" />
      </form>
    </v-card>
  </v-dialog>
</template>

<script setup lang="ts">
import { ref, watch } from 'vue'
import { editProspect, type Prospect } from '#shared/api/prospects'
import { ApiError, call } from '~/api/call'
import { useNotices } from '~/stores/notices'

/** Archives a person, with the reason. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ person: Prospect }>()
const emit = defineEmits<{ done: [] }>()
const notices = useNotices()
const reason = ref('')
const formError = ref<ApiError | null>(null)
watch(open, () => {
  reason.value = ''
  formError.value = null
})
async function archive(): Promise<void> {
  const body = { version: props.person.version, status: 'archived' as const, reason: reason.value }
  formError.value = null
  try {
    await call(editProspect, { params: { id: props.person.id }, body })
    notices.say(`${props.person.name} is archived.`)
    open.value = false
    emit('done')
  } catch (error) {
    notices.error(error)
    if (!(error instanceof ApiError)) return
    if (error.problems.length) formError.value = error
    if (error.code === 'conflict') emit('done')
  }
}
</script>

<template>
  <v-dialog v-model="open" max-width="420" aria-label="Archive">
    <v-card class="pa-5">
      <form class="stack" @submit.prevent="archive">
        <h2>Archive {{ person.name }}</h2>
        <p class="dim">They get no more email or calls, and leave lists and the Desk. Their activity is kept.</p>
        <v-text-field v-model="reason" v-focus label="Why" maxlength="500" :error-messages="formError?.at('reason')" />
        <FormFooter action="Archive" @cancel="open = false" />
      </form>
    </v-card>
  </v-dialog>
</template>

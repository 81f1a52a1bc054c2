<script setup lang="ts">
import { ref, watch } from 'vue'
import { setGoals } from '#shared/api/team'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'

/** A day's goals for each rep. */
interface Goals {
  calls: number
  conversations: number
  booked: number
}
const props = defineProps<{ users: readonly { id: string; name: string; goals: Goals }[] }>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ done: [] }>()
const notices = useNotices()
const { formError, busy, send } = useSending()
const draft = ref<{ id: string; name: string; goals: Goals }[]>([])
const FIELDS: { key: keyof Goals; label: string; most: number }[] = [
  { key: 'calls', label: 'Calls', most: 1000 },
  { key: 'conversations', label: 'Conversations', most: 1000 },
  { key: 'booked', label: 'Meetings booked', most: 100 },
]
watch(open, (now) => {
  formError.value = null
  if (now) draft.value = props.users.map(({ id, name, goals }) => ({ id, name, goals: { ...goals } }))
})
const save = () =>
  send(async () => {
    await call(setGoals, { body: { users: draft.value.map(({ id, goals }) => ({ id, goals })) } })
    notices.say('Goals saved.')
    open.value = false
    emit('done')
  })
</script>

<template>
  <v-dialog v-model="open" max-width="560" aria-label="Goals">
    <v-card class="pa-5">
      <form @submit.prevent="save">
        <h2 class="mb-1">Goals for a day</h2>
        <p class="dim mb-3">A week’s goal is the day’s, times the working days in it.</p>
        <table class="sheet">
          <thead>
            <tr>
              <th>Rep</th>
              <th v-for="field in FIELDS" :key="field.key">{{ field.label }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="user in draft" :key="user.id">
              <td>{{ user.name }}</td>
              <td v-for="field in FIELDS" :key="field.key">
                <input
                  v-model.number="user.goals[field.key]"
                  type="number"
                  min="0"
                  :max="field.most"
                  required
                  :aria-label="`${field.label}, ${user.name}`"
                />
              </td>
            </tr>
          </tbody>
        </table>
        <FormFooter action="Save" :busy="busy" :form-error="formError" class="mt-4" @cancel="open = false" />
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
input {
  width: 84px;
}
</style>

<script setup lang="ts">
import { ref } from 'vue'
import { erasePerson, type Prospect } from '#shared/api/prospects'
import { newId } from '#shared/newId'
import { call, messageOf } from '~/api/call'
import { useNotices } from '~/stores/notices'

/** What a person may ask for: a copy of everything that is kept of them, and to be erased. */
const props = defineProps<{ person: Prospect }>()
const emit = defineEmits<{ erased: [] }>()
const notices = useNotices()
const asking = ref(false)
const name = ref('')
const formError = ref('')
const busy = ref(false)

async function erase(): Promise<void> {
  busy.value = true
  formError.value = ''
  try {
    await call(erasePerson, { params: { id: props.person.id }, body: { id: newId(), name: name.value } })
    asking.value = false
    notices.say('Erased. What happened stays in the numbers, without their name.')
    emit('erased')
  } catch (error) {
    formError.value = messageOf(error, 'That did not work. Try again')
  }
  busy.value = false
}
function ask(): void {
  asking.value = true
  name.value = ''
}
</script>

<template>
  <p class="small">
    <a class="link mr-3" :href="`/api/prospects/${person.id}/data`" download="person.json">Export their data</a>
    <button class="link" @click="ask()">Erase this person</button>
  </p>
  <v-dialog v-model="asking" max-width="520" aria-label="Erase this person">
    <v-card class="pa-5">
      <h2 class="mb-2">Erase {{ person.name }}?</h2>
      <p class="mb-2">
        Name, addresses, numbers, notes and every email are deleted, and their cadences end. Past calls and emails still
        count in your reports, without the person’s name. If a file brings the same address or number in again, it is
        not emailed or called.
      </p>
      <p class="mb-4"><b>This cannot be undone.</b> Type their name to be sure.</p>
      <form @submit.prevent="erase">
        <v-text-field v-model="name" v-focus :label="person.name" :error-messages="formError" class="mb-4" />
        <FormFooter action="Erase" danger :disabled="!name.trim()" :busy="busy" @cancel="asking = false" />
      </form>
    </v-card>
  </v-dialog>
</template>

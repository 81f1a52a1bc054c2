<script setup lang="ts">
import { reactive, ref, watch } from 'vue'
import { navigateTo } from '#imports'
import { addProspect } from '#shared/api/prospects'
import { ApiError, call } from '~/composables/api'
import { useNotices } from '~/stores/notices'

const open = defineModel<boolean>({ required: true })
const notices = useNotices()
const empty = { name: '', phone: '', email: '', company: '', title: '' }
const given = reactive({ ...empty })
const wrong = ref<ApiError | null>(null)
const busy = ref(false)
watch(open, () => { wrong.value = null })

async function add(): Promise<void> {
  busy.value = true
  wrong.value = null
  try {
    const filled = Object.fromEntries(Object.entries(given).filter(([, value]) => value.trim())) as typeof given
    const added = await call(addProspect, { body: { ...filled, name: given.name } })
    notices.say(added.known ? `${given.name} is known already. Here they are.` : `${given.name} was added.`)
    Object.assign(given, empty)
    open.value = false
    await navigateTo(`/prospects/${added.id}`)
  }
  catch (error) {
    if (error instanceof ApiError) wrong.value = error
    else throw error
  }
  busy.value = false
}
</script>

<template>
  <v-dialog v-model="open" max-width="480">
    <v-card class="pa-5">
      <form class="form" @submit.prevent="add">
        <h2>Add a person</h2>
        <p class="dim">A name and a number are enough.</p>
        <v-text-field v-model="given.name" label="Name" autofocus :error-messages="wrong?.at('name')" />
        <v-text-field v-model="given.phone" label="Phone" inputmode="tel" :error-messages="wrong?.at('phone')" />
        <v-text-field v-model="given.email" label="Email" inputmode="email" :error-messages="wrong?.at('email')" />
        <v-text-field v-model="given.company" label="Company" :error-messages="wrong?.at('company')" />
        <v-text-field v-model="given.title" label="Job title" :error-messages="wrong?.at('title')" />
        <p v-if="wrong && !wrong.problems.length" class="notice clay">{{ wrong.message }}</p>
        <div class="row"><v-btn type="submit" color="primary" :loading="busy">Add</v-btn><v-btn variant="text" @click="open = false">Cancel</v-btn></div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.form { display: grid; gap: 12px; }
</style>

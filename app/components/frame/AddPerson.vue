<script setup lang="ts">
import { reactive, watch } from 'vue'
import { navigateTo } from '#imports'
import { addProspect } from '#shared/api/prospects'
import { call } from '~/composables/api'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'

const open = defineModel<boolean>({ required: true })
const notices = useNotices()
const empty = { name: '', phone: '', email: '', company: '', title: '' }
const given = reactive({ ...empty })
const { wrong, busy, send } = useSending()
watch(open, () => { wrong.value = null })

const add = () => send(async () => {
  const filled = Object.fromEntries(Object.entries(given).filter(([, value]) => value.trim())) as typeof given
  const added = await call(addProspect, { body: { ...filled, name: given.name } })
  notices.say(added.known ? `${given.name} is known already. Here they are.` : `${given.name} was added.`)
  Object.assign(given, empty)
  open.value = false
  await navigateTo(`/prospects/${added.id}`)
})
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

<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { navigateTo } from '#imports'
import { readPersonLine } from '#core/imports/personLine'
import { addProspect } from '#shared/api/prospects'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'

/** One person by hand: in one line, which is read as it is typed, or field by field. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  /** What to begin the line with. */
  begin?: string
  /** Where they work unless said otherwise; then one stays where one is. */
  company?: string
}>()
const notices = useNotices()
const empty = { name: '', phone: '', email: '', company: '', title: '' }
const given = reactive({ ...empty, company: props.company ?? '' })
const line = ref('')
const { formError, busy, send } = useSending()
/** Nobody can reach them, and nothing tells them from others of that name. */
const isBare = computed(() => !given.phone.trim() && !given.email.trim() && !given.company.trim())
const asked = ref(false)
watch(isBare, () => {
  asked.value = false
})
watch(line, (text) => {
  if (!text) return
  const read = readPersonLine(text)
  Object.assign(given, read, { company: read.company || (props.company ?? '') })
})
watch(
  open,
  (now) => {
    formError.value = null
    asked.value = false
    if (now && props.begin) line.value = props.begin
  },
  { immediate: true },
)

const add = () => {
  // A slip of the keyboard makes nobody: a name alone is asked about once.
  if (isBare.value && given.name.trim() && !asked.value) asked.value = true
  else void create()
}
const create = () =>
  send(async () => {
    const filled = Object.fromEntries(Object.entries(given).filter(([, value]) => value.trim())) as typeof given
    const added = await call(addProspect, { body: { ...filled, name: given.name } })
    const page = `/prospects/${added.id}`
    const stays = props.company !== undefined
    const label = added.known ? `${given.name} is already a prospect` : `${given.name} was added`
    if (stays) notices.say(`${label}.`, { label: 'Open', run: () => void navigateTo(page) })
    else notices.say(added.known ? `${label}: here they are.` : `${label}.`)
    Object.assign(given, empty, { company: props.company ?? '' })
    line.value = ''
    open.value = false
    if (!stays) await navigateTo(page)
  })
</script>

<template>
  <v-dialog v-model="open" max-width="480" aria-label="Add person">
    <v-card class="pa-5">
      <form class="form" @submit.prevent="add">
        <h2>Add a person</h2>
        <v-text-field
          v-model="line"
          v-focus
          label="In one line"
          maxlength="1000"
          placeholder="Petra Lindqvist, Buyer at Oxbow Cider, 607 555 0142"
          persistent-placeholder
          hint="A name and a number are enough; you can add an email address too."
          persistent-hint
        />
        <v-text-field v-model="given.name" label="Name" :error-messages="formError?.at('name')" />
        <v-text-field v-model="given.phone" label="Phone" inputmode="tel" :error-messages="formError?.at('phone')" />
        <v-text-field v-model="given.email" label="Email" inputmode="email" :error-messages="formError?.at('email')" />
        <v-text-field v-model="given.company" label="Company" :error-messages="formError?.at('company')" />
        <v-text-field v-model="given.title" label="Job title" :error-messages="formError?.at('title')" />
        <p v-if="formError && !formError.problems.length" class="notice clay">{{ formError.message }}</p>
        <p v-if="asked && isBare" class="notice" role="alert">
          No phone, email or company for “{{ given.name }}”. Add one, or add the name alone.
        </p>
        <FormFooter :action="asked && isBare ? 'Add the name alone' : 'Add'" :busy="busy" @cancel="open = false" />
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
}
</style>

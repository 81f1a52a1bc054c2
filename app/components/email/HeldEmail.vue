<script setup lang="ts">
import { reactive, ref } from 'vue'
import { settleEmail, type Brief } from '#shared/api/desk/desk'
import { editProspect } from '#shared/api/prospects'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useNotices } from '~/stores/notices'

/** An email that could not go, or may have gone: what it lacks is filled in here, and then it is sent. */
const props = defineProps<{ held: NonNullable<Brief['held']>; person: Brief['prospect'] }>()
const emit = defineEmits<{ settled: [] }>()
const notices = useNotices()
async function settle(wentOut: boolean): Promise<void> {
  try {
    await call(settleEmail, { params: { id: props.held.id }, body: { id: newId(), wentOut } })
    notices.say(wentOut ? 'Marked as sent.' : 'Sending it now.')
    emit('settled')
  } catch (error) {
    notices.error(error)
  }
}
/** What is typed for the values that a held email lacks, by field. */
const filled = reactive<Record<string, string>>({})
const fillError = reactive<Record<string, string>>({})
async function fillAndSend(): Promise<void> {
  const fields = props.held.missing.flatMap((lack) => lack.field ?? [])
  for (const field of fields) fillError[field] = filled[field]?.trim() ? '' : 'Fill this in'
  if (fields.some((field) => fillError[field])) return
  const custom = Object.fromEntries(
    fields
      .filter((field) => field.startsWith('custom:'))
      .map((field) => [field.slice('custom:'.length), filled[field]]),
  )
  const plain = Object.fromEntries(
    fields.filter((field) => !field.startsWith('custom:')).map((field) => [field, filled[field]!.trim()]),
  )
  try {
    await call(editProspect, {
      params: { id: props.person.id },
      body: { version: props.person.version, ...plain, ...(Object.keys(custom).length && { custom }) },
    })
    await settle(false)
  } catch (error) {
    notices.error(error)
  }
}
const busy = ref(false)
/** Sends it, with what was filled in; a second key or click meanwhile does nothing. */
async function send(): Promise<void> {
  if (busy.value) return
  busy.value = true
  await (props.held.missing.length ? fillAndSend() : settle(false))
  busy.value = false
}
defineExpose({ send })
</script>

<template>
  <div class="notice clay mt-2">
    <b>“{{ held.subject }}”</b>
    {{
      held.status === 'unconfirmed'
        ? 'may have gone out: the connection was lost at the last moment.'
        : held.lastError || 'could not be sent.'
    }}
    <div class="row mt-2">
      <v-btn v-if="held.status === 'unconfirmed'" size="small" variant="outlined" @click="settle(true)"
        >It went out</v-btn
      ><v-btn v-if="!held.missing.length" size="small" color="primary" :loading="busy" @click="send"
        >Send it now <kbd class="ml-2">S</kbd></v-btn
      >
    </div>
    <form v-if="held.missing.length" class="fill" @submit.prevent="send">
      <p v-if="held.missing.some((lack) => lack.field)">Fill in what it lacks <kbd>R</kbd></p>
      <template v-for="lack in held.missing" :key="lack.name">
        <v-text-field
          v-if="lack.field"
          v-model="filled[lack.field]"
          :label="lack.label"
          :error-messages="fillError[lack.field]"
        />
        <p v-else>
          {{ lack.label }}: fill it in on
          <NuxtLink v-if="person.company" :to="`/companies/${person.company.id}`">{{
            person.company.name
          }}</NuxtLink><NuxtLink v-else :to="`/prospects/${person.id}`">their page</NuxtLink>.
        </p>
      </template>
      <div v-if="held.missing.every((lack) => lack.field)">
        <v-btn type="submit" size="small" color="primary" :loading="busy"
          >Save and send <kbd class="ml-2">S</kbd></v-btn
        >
      </div>
    </form>
  </div>
</template>

<style scoped>
.fill {
  display: grid;
  gap: 8px;
  margin-top: 8px;
  max-width: 360px;
}
</style>

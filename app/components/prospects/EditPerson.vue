<script setup lang="ts">
import { reactive, ref, watch } from 'vue'
import { editProspect, type Prospect } from '#shared/api/prospects'
import { listUsers } from '#shared/api/settings/settings'
import { ApiError, call } from '~/api/call'
import { useNotices } from '~/stores/notices'

/** Changes who a person is: name, title, owner, place and time zone; adds a phone or an email. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ person: Prospect }>()
const emit = defineEmits<{ done: [] }>()
const notices = useNotices()
const formError = ref<ApiError | null>(null)
const owners = ref<{ id: string | null; name: string }[]>([])
const fields = reactive({
  firstName: '',
  lastName: '',
  title: '',
  city: '',
  region: '',
  country: null as string | null,
  timeZone: null as string | null,
  ownerId: null as string | null,
  addEmail: '',
  addPhone: '',
})
watch(open, (isOpen) => {
  if (isOpen) begin(props.person)
})
function begin(now: Prospect): void {
  formError.value = null
  Object.assign(fields, {
    firstName: now.firstName,
    lastName: now.lastName,
    title: now.title ?? '',
    city: now.city ?? '',
    region: now.region ?? '',
    country: now.country,
    timeZone: now.timeZone,
    ownerId: now.owner?.id ?? null,
    addEmail: '',
    addPhone: '',
  })
  call(listUsers).then(({ users }) => {
    owners.value = [{ id: null, name: 'Nobody' }, ...users.filter((user) => user.active || user.id === now.owner?.id)]
  }, notices.error)
}
async function save(): Promise<void> {
  const { addEmail, addPhone, country, timeZone, ...plain } = fields
  formError.value = null
  const body = {
    version: props.person.version,
    ...plain,
    // A time zone that nobody has set follows the address.
    ...(timeZone !== props.person.timeZone && { timeZone: timeZone || null }),
    country: country || null,
    ...(addEmail && { addEmail }),
    ...(addPhone && { addPhone }),
  }
  try {
    await call(editProspect, { params: { id: props.person.id }, body })
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
  <v-dialog v-model="open" max-width="560" aria-label="Edit">
    <v-card class="pa-5">
      <form class="stack" @submit.prevent="save">
        <h2>Edit {{ person.name }}</h2>
        <div class="pair">
          <v-text-field v-model="fields.firstName" label="First name" :error-messages="formError?.at('firstName')" />
          <v-text-field v-model="fields.lastName" label="Last name" />
        </div>
        <div class="pair">
          <v-text-field v-model="fields.title" label="Job title" />
          <v-select
            v-model="fields.ownerId"
            :items="owners"
            item-value="id"
            item-title="name"
            label="Owner"
            hint="Planned work moves to the new owner"
            persistent-hint
          />
        </div>
        <div class="pair">
          <v-text-field v-model="fields.city" label="City" />
          <v-text-field v-model="fields.region" label="State or region" />
        </div>
        <div class="pair">
          <CountryField v-model="fields.country" label="Country" clearable :error-messages="formError?.at('country')" />
          <ZoneField
            v-model="fields.timeZone"
            label="Time zone"
            clearable
            hint="Empty: by address, then number"
            persistent-hint
            :error-messages="formError?.at('timeZone')"
          />
        </div>
        <div class="pair">
          <v-text-field v-model="fields.addPhone" label="Add phone" :error-messages="formError?.at('phone')" />
          <v-text-field v-model="fields.addEmail" label="Add email" :error-messages="formError?.at('email')" />
        </div>
        <FormFooter action="Save" @cancel="open = false" />
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.pair {
  align-items: start;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
</style>

<script setup lang="ts">
import { reactive, ref } from 'vue'
import { changePassword } from '#shared/api/accounts'
import { ApiError, call } from '~/api/call'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

const emit = defineEmits<{ changed: [] }>()
const session = useSession()
const notices = useNotices()
const form = reactive({ current: '', next: '', repeated: '' })
const formError = ref<Record<string, string>>({})
const busy = ref(false)

async function save(): Promise<void> {
  formError.value = form.next === form.repeated ? {} : { repeated: 'The two passwords differ' }
  if (formError.value.repeated) return
  busy.value = true
  try {
    await call(changePassword, { body: { current: form.current, next: form.next } })
    if (session.user) session.user = { ...session.user, mustChangePassword: false }
    Object.assign(form, { current: '', next: '', repeated: '' })
    notices.say('Your password is changed. You are signed out everywhere else.')
    emit('changed')
  } catch (error) {
    if (error instanceof ApiError && error.problems.length) {
      formError.value = Object.fromEntries(error.problems.map((problem) => [problem.field, problem.message]))
    } else notices.error(error)
  }
  busy.value = false
}
</script>

<template>
  <section>
    <h2 class="mb-3">Password</h2>
    <form class="form" @submit.prevent="save">
      <v-text-field
        v-model="form.current"
        :label="session.user?.mustChangePassword ? 'Temporary password' : 'Current password'"
        type="password"
        autocomplete="current-password"
        :error-messages="formError.current"
      />
      <v-text-field
        v-model="form.next"
        label="New password"
        hint="At least 10 characters"
        type="password"
        autocomplete="new-password"
        :error-messages="formError.next"
      />
      <v-text-field
        v-model="form.repeated"
        label="Confirm new password"
        type="password"
        autocomplete="new-password"
        :error-messages="formError.repeated"
      />
      <div>
        <v-btn type="submit" color="primary" :loading="busy" :disabled="!form.current || form.next.length < 10"
          >Change password</v-btn
        >
      </div>
    </form>
  </section>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
  max-width: 360px;
}
</style>

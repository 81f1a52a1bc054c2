<script setup lang="ts">
import { ref } from 'vue'
import { useHead } from '#imports'
import { resetPassword } from '#shared/api/accounts'
import { ApiError, call } from '~/api/call'

/** Where a reset link leads: a new password, once. The token stands after the sign, where no server sees it. */
const token = ref(window.location.hash.slice(1))
const password = ref('')
const repeated = ref('')
const formError = ref('')
const email = ref('')
const busy = ref(false)
useHead({ title: 'New password' })

async function save(): Promise<void> {
  if (password.value !== repeated.value) {
    formError.value = 'The two passwords differ'
    return
  }
  busy.value = true
  formError.value = ''
  try {
    email.value = (await call(resetPassword, { body: { token: token.value, password: password.value } })).email
    history.replaceState(history.state, '', '/reset-password')
  } catch (error) {
    formError.value =
      error instanceof ApiError ? (error.at('password') ?? error.message) : 'That did not work. Try again'
  }
  busy.value = false
}
</script>

<template>
  <main class="narrow">
    <div class="row mb-4">
      <img src="/mark.svg" width="30" alt="" />
      <h1>A new password</h1>
    </div>
    <template v-if="email">
      <p class="notice pine mb-4" role="status">Your password is set. Sign in with it; older sessions have ended.</p>
      <NuxtLink class="link" to="/sign-in">Sign in as {{ email }}</NuxtLink>
    </template>
    <p v-else-if="token.length < 20" class="notice clay">
      This link is not complete. Copy all of it, or ask your manager for another.
    </p>
    <form v-else class="form" @submit.prevent="save">
      <v-text-field
        v-model="password"
        v-focus
        label="New password"
        hint="At least 10 characters"
        persistent-hint
        type="password"
        autocomplete="new-password"
      />
      <v-text-field
        v-model="repeated"
        label="Confirm new password"
        type="password"
        autocomplete="new-password"
        :error-messages="formError"
      />
      <v-btn type="submit" color="primary" :loading="busy" :disabled="password.length < 10">Set password</v-btn>
    </form>
  </main>
</template>

<style scoped>
.narrow {
  max-width: 26rem;
  margin: 16vh auto 0;
  padding: 0 1.5rem;
}
.form {
  display: grid;
  gap: 14px;
}
</style>

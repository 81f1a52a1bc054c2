<script setup lang="ts">
import { ref } from 'vue'
import { ApiError, messageOf } from '~/api/call'
import { useSession } from '~/stores/session'

const props = defineProps<{ email?: string }>()
const emit = defineEmits<{ done: [] }>()
const session = useSession()
const email = ref(props.email ?? '')
const password = ref('')
const formError = ref('')
const busy = ref(false)
const code = ref('')
const asksCode = ref(false)

async function enter(): Promise<void> {
  busy.value = true
  formError.value = ''
  try {
    await session.enter(email.value, password.value, code.value.trim() || undefined)
    emit('done')
  } catch (error) {
    const message = messageOf(error, 'That did not work. Try again')
    const wantsCode = error instanceof ApiError && error.code === 'second_factor'
    formError.value = wantsCode && !asksCode.value ? '' : message
    if (wantsCode) asksCode.value = true
  }
  busy.value = false
}
function take(account: { email: string; password: string }): void {
  email.value = account.email
  password.value = account.password
  void enter()
}
</script>

<template>
  <form class="form" @submit.prevent="enter">
    <v-text-field
      v-model="email"
      v-focus="!props.email"
      label="Email"
      type="email"
      autocomplete="username"
      :readonly="Boolean(props.email)"
    />
    <v-text-field
      v-model="password"
      v-focus="Boolean(props.email)"
      label="Password"
      type="password"
      autocomplete="current-password"
      :error-messages="asksCode ? '' : formError"
    />
    <v-text-field
      v-if="asksCode"
      v-model="code"
      v-focus
      label="Code from your authenticator app"
      inputmode="numeric"
      autocomplete="one-time-code"
      maxlength="7"
      :error-messages="formError"
    />
    <v-btn type="submit" color="primary" :loading="busy" block>Sign in</v-btn>
    <div v-if="session.demo && !props.email" class="demo">
      <p class="dim small">This is the demo. Sign in as</p>
      <button
        v-for="account in session.demo.accounts"
        :key="account.email"
        type="button"
        class="plain who"
        @click="take(account)"
      >
        <strong>{{ account.name }}</strong> <span class="dim">{{ account.role }}</span>
      </button>
    </div>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 14px;
}
.demo {
  display: grid;
  gap: 6px;
  border-top: 1px solid var(--line);
  padding-top: 12px;
}
.who {
  padding: 7px 10px;
  border: 1px solid var(--line);
  border-radius: 6px;
  display: flex;
  justify-content: space-between;
}
.who:hover {
  background: var(--pine-soft);
}
</style>

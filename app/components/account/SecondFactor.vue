<script setup lang="ts">
import { reactive, ref } from 'vue'
import { confirmSecondFactor, removeSecondFactor, startSecondFactor } from '#shared/api/accounts'
import { call, messageOf } from '~/api/call'
import { useNotices } from '~/stores/notices'

/** The second factor: a code from an authenticator app besides the password. */
defineProps<{ on: boolean }>()
const emit = defineEmits<{ changed: [] }>()
const notices = useNotices()
const password = ref('')
const code = ref('')
const formError = ref('')
const open = ref(false)
const made = reactive({ secret: '', picture: '' })

async function attempt(work: () => Promise<unknown>): Promise<boolean> {
  formError.value = ''
  try {
    await work()
    return true
  } catch (error) {
    formError.value = messageOf(error, 'That did not work. Try again')
    return false
  }
}
const start = () =>
  attempt(async () => {
    const { secret, picture } = await call(startSecondFactor, { body: { password: password.value } })
    Object.assign(made, { secret, picture: `data:image/svg+xml;base64,${btoa(picture)}` })
    password.value = ''
  })
function close(): void {
  Object.assign(made, { secret: '', picture: '' })
  open.value = false
  password.value = code.value = formError.value = ''
}
async function confirm(): Promise<void> {
  if (!(await attempt(() => call(confirmSecondFactor, { body: { secret: made.secret, code: code.value } })))) return
  close()
  notices.say('The second factor is on. You will be asked for a code when you sign in.')
  emit('changed')
}
async function remove(): Promise<void> {
  if (!(await attempt(() => call(removeSecondFactor, { body: { password: password.value } })))) return
  close()
  notices.say('The second factor is off.')
  emit('changed')
}
</script>

<template>
  <section>
    <h2>
      Second factor <span class="chip" :class="on ? 'pine' : ''">{{ on ? 'on' : 'off' }}</span>
    </h2>
    <p class="dim mb-3">A code from an authenticator app, needed with your password when you sign in.</p>
    <form v-if="made.secret" class="form" @submit.prevent="confirm">
      <p>
        Scan this with your authenticator app, or type the key into it:
        <code class="key">{{ made.secret.match(/.{4}/g)!.join(' ') }}</code>
      </p>
      <img :src="made.picture" width="180" height="180" alt="QR code of the key" />
      <v-text-field
        v-model="code"
        v-focus
        label="Code from the app"
        inputmode="numeric"
        maxlength="7"
        autocomplete="one-time-code"
        :error-messages="formError"
      />
      <FormFooter action="Turn on" :disabled="code.replace(/\D/g, '').length !== 6" @cancel="close" />
    </form>
    <form v-else-if="open" class="form" @submit.prevent="on ? remove() : start()">
      <v-text-field
        v-model="password"
        v-focus
        label="Your password"
        type="password"
        autocomplete="current-password"
        :error-messages="formError"
      />
      <FormFooter :action="on ? 'Turn off' : 'Continue'" :danger="on" :disabled="!password" @cancel="close" />
    </form>
    <v-btn v-else variant="outlined" @click="open = true">{{ on ? 'Turn off' : 'Set up' }}</v-btn>
  </section>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
  max-width: 360px;
}
.key {
  font-family: ui-monospace, monospace;
  user-select: all;
}
</style>

<script setup lang="ts">
import { useSession } from '~/stores/session'

const session = useSession()
</script>

<template>
  <v-dialog :model-value="session.ended" aria-label="Sign in again" persistent max-width="380">
    <v-card class="pa-5">
      <h2>Your session has ended</h2>
      <p class="dim mb-4">You were signed out. What you typed is still here: sign in to continue.</p>
      <SignInForm v-if="session.user" :email="session.user.email" />
    </v-card>
  </v-dialog>
</template>

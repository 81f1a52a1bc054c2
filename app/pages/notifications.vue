<script setup lang="ts">
import { onMounted } from 'vue'
import { useNotifications } from '~/stores/notifications'
import { useSession } from '~/stores/session'

/** All notifications of the user. */
const session = useSession()
const notifications = useNotifications()
onMounted(() => notifications.read())
</script>

<template>
  <div class="page">
    <div class="spread mb-2">
      <h1>Notifications</h1>
      <v-btn size="small" variant="outlined" :disabled="!session.unread" @click="notifications.mark(null)"
        >Mark all as read</v-btn
      >
    </div>
    <p class="dim mb-4">
      Replies, prospects assigned to you, outcomes you are notified of, emails that could not be sent, and finished
      imports and bulk actions. <NuxtLink to="/account">Get them by email</NuxtLink>
    </p>
    <p v-if="notifications.items && !notifications.items.length" class="panel">Nothing yet.</p>
    <section v-if="notifications.items?.length" class="panel list">
      <NotificationList :items="notifications.items" @open="notifications.open" @mark="notifications.mark" />
    </section>
    <v-btn v-if="notifications.next !== null" variant="text" class="mt-3" @click="notifications.read(true)"
      >Show older</v-btn
    >
  </div>
</template>

<style scoped>
.list {
  padding: 0;
  max-width: 760px;
}
</style>

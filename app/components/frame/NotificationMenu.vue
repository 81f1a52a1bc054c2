<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Notification } from '#shared/api/notifications'
import { useNotifications } from '~/stores/notifications'
import { useSession } from '~/stores/session'

/** The notifications, from the header: how many are unread, and the newest. */
const session = useSession()
const notifications = useNotifications()
const open = ref(false)
const SHOWN = 8
const newest = computed(() => (notifications.items ?? []).slice(0, SHOWN))
const label = computed(() => (session.unread ? `Notifications, ${session.unread} unread` : 'Notifications'))
watch(open, (now) => {
  if (now) void notifications.read()
})
function go(one: Notification): void {
  open.value = false
  void notifications.open(one)
}
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false" location="bottom end" offset="10" width="420">
    <template #activator="{ props }">
      <button v-bind="props" class="plain bell num" :aria-label="label" :title="label">
        <svg viewBox="0 0 24 24" width="20" height="20" aria-hidden="true">
          <path d="M5 17h14l-2-3v-4a5 5 0 0 0-10 0v4zM10 20h4" fill="none" stroke="currentColor" stroke-width="1.7" />
        </svg>
        <span v-if="session.unread" class="count">{{ session.unread > 99 ? '99+' : session.unread }}</span>
      </button>
    </template>
    <section class="sheet" aria-label="Notifications">
      <div class="spread top">
        <h2>Notifications</h2>
        <button class="link small" :disabled="!session.unread" @click="notifications.mark(null)">
          Mark all as read
        </button>
      </div>
      <p v-if="notifications.items && !newest.length" class="dim none">
        Nothing yet. Replies, prospects assigned to you and finished imports are listed here.
      </p>
      <LazyNotificationList v-if="open" :items="newest" @open="go" @mark="notifications.mark" />
      <p class="all"><NuxtLink to="/notifications" @click="open = false">All notifications</NuxtLink></p>
    </section>
  </v-menu>
</template>

<style scoped>
.bell {
  display: flex;
  align-items: center;
  gap: 3px;
  padding: 4px;
  color: var(--ink);
}
.count {
  background: var(--amber-soft);
  color: var(--amber-deep);
  border-radius: 8px;
  padding: 0 5px;
  font-size: 12.5px;
  font-weight: 600;
}
.sheet {
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 8px;
  max-height: min(560px, 80vh);
  overflow: auto;
}
.top {
  padding: 10px 12px;
}
.none {
  padding: 0 12px 10px;
}
.all {
  border-top: 1px solid var(--line);
  padding: 8px 12px;
}
</style>

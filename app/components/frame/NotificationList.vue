<script setup lang="ts">
import { NOTIFICATION_KINDS, capitalized } from '#core/enumerations'
import type { Notification } from '#shared/api/notifications'
import { useTimes } from '~/composables/times'

/** Notifications, newest first: what happened, when, and whether it has been read. */
defineProps<{ items: readonly Notification[] }>()
const emit = defineEmits<{ open: [Notification]; mark: [Notification, boolean] }>()
const times = useTimes()
</script>

<template>
  <ol class="list">
    <li v-for="one in items" :key="one.ids[0]" class="one" :class="{ unread: !one.read }">
      <button class="plain what" @click="emit('open', one)">
        <span class="dot" aria-hidden="true" />
        <span class="sentence"
          ><span class="sr">{{ one.read ? '' : 'Unread: ' }}</span
          >{{ one.sentence
          }}<small class="dim num"
            >{{ capitalized(NOTIFICATION_KINDS[one.kind]) }} · {{ times.moment(one.at) }}</small
          ></span
        >
      </button>
      <button class="link small" @click="emit('mark', one, !one.read)">
        {{ one.read ? 'Mark as unread' : 'Mark as read' }}
      </button>
    </li>
  </ol>
</template>

<style scoped>
.list {
  list-style: none;
  margin: 0;
  padding: 0;
}
.one {
  display: flex;
  gap: 10px;
  align-items: center;
  border-top: 1px solid var(--line);
  padding: 2px 10px;
}
.what {
  flex: 1;
  display: grid;
  grid-template-columns: 10px 1fr;
  gap: 8px;
  align-items: baseline;
  padding: 7px 0;
  text-align: left;
  min-width: 0;
}
.what:hover .sentence {
  text-decoration: underline;
}
.dot {
  width: 8px;
  height: 8px;
  border-radius: 50%;
}
.unread .dot {
  background: var(--amber);
}
.unread .sentence {
  font-weight: 600;
}
.sentence {
  overflow-wrap: anywhere;
}
small {
  display: block;
  font-weight: 400;
  font-size: 12.5px;
}
.link {
  white-space: nowrap;
}
</style>

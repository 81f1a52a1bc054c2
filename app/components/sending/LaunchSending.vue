<script setup lang="ts">
import { computed } from 'vue'
import { listSenders, listSendingWindows } from '#shared/api/email/sending'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { windowInWords } from './windowInWords'

/** How the email of a launch will be sent: its window, and what room its senders have. */
const props = defineProps<{ windowId: string | null; senderIds: readonly string[] }>()
const times = useTimes()
const [windows, senders] = await Promise.all([
  call(listSendingWindows).then((answer) => answer.windows),
  call(listSenders).then((answer) => answer.senders),
]).catch((error: unknown) => {
  useNotices().error(error)
  return [[], []]
})
const window = computed(
  () => windows.find(({ id }) => id === props.windowId) ?? windows.find(({ isDefault }) => isDefault),
)
const concerned = computed(() => senders.filter(({ id }) => props.senderIds.includes(id)))
const count = (value: number) => value.toLocaleString()
</script>

<template>
  <section>
    <h2 class="mt-4">Its email</h2>
    <p v-if="window">
      <b>{{ window.name }}</b>: {{ windowInWords(window, times) }}.
      <NuxtLink to="/settings/sending" class="link small">Change windows and senders</NuxtLink>
    </p>
    <ul class="senders">
      <li v-for="sender in concerned" :key="sender.id">
        <b>{{ sender.name }}</b> sends at most {{ count(sender.cap) }} a day<template
          v-if="sender.ramp && sender.capToday < sender.cap"
          >, {{ count(sender.capToday) }} today (slow start)</template
        ><template v-if="sender.domainCap !== null">, {{ count(sender.domainCap) }} to one receiving domain</template>.
        {{ count(sender.sentToday) }} went today,
        <NuxtLink :to="{ path: '/email-queue', query: { sender: sender.id } }" class="link"
          >{{ count(sender.waiting) }} {{ sender.waiting === 1 ? 'waits' : 'wait' }}</NuxtLink
        >.
      </li>
    </ul>
  </section>
</template>

<style scoped>
.senders {
  margin: 6px 0 0 18px;
}
</style>

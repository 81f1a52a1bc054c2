<script setup lang="ts">
import { computed, ref } from 'vue'
import type { z } from 'zod'
import { nextPass } from '#shared/api/blocks/work'
import type { queueAnswer } from '#shared/api/desk/queue'
import { call } from '~/api/call'
import { useDesk } from '~/stores/desk'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** The Desk with nobody in hand: why, and what to do next. */
const props = defineProps<{ queue: z.output<typeof queueAnswer> }>()
const desk = useDesk()
const session = useSession()
const notices = useNotices()
const busy = ref(false)
const block = computed(() => props.queue.block)
const several = (count: number, one: string, many: string) => `${count.toLocaleString()} ${count === 1 ? one : many}`
async function again(): Promise<void> {
  busy.value = true
  try {
    await call(nextPass, { params: { id: block.value!.id }, body: { pass: block.value!.pass + 1 } })
  } catch (error) {
    notices.error(error)
  }
  await desk.refresh()
  busy.value = false
}
</script>

<template>
  <section class="empty">
    <template v-if="block">
      <template v-if="block.closed">
        <h1>“{{ block.name }}” is closed.</h1>
        <p class="dim">
          {{ block.inWords }}.
          <NuxtLink v-if="!session.onlyCalls" :to="`/blocks/${block.id}`">See the results</NuxtLink>
        </p>
      </template>
      <template v-else-if="block.paused">
        <h1>Paused.</h1>
        <p class="dim">Your people stay yours for ten minutes; after that another caller may get them.</p>
        <v-btn color="primary" class="mt-4" @click="desk.pause()">Resume <kbd class="ml-2">P</kbd></v-btn>
      </template>
      <template v-else>
        <h1>{{ block.open ? 'Nobody to call right now.' : `“${block.name}” is done.` }}</h1>
        <p class="dim">{{ block.inWords }}.</p>
        <p v-if="block.open" class="dim">
          {{
            queue.counts.later
              ? `${several(queue.counts.later, 'person opens', 'people open')} later where they are.`
              : 'Other callers, or another dialer, have those who are left.'
          }}
        </p>
        <div class="row mt-4">
          <v-btn v-if="!block.open && block.notReached" color="primary" :loading="busy" @click="again"
            >Call the {{ block.notReached }} not reached again</v-btn
          ><v-btn v-if="!session.onlyCalls" variant="outlined" :to="`/blocks/${block.id}`">See the results</v-btn
          ><v-btn variant="text" to="/">Everything due</v-btn>
        </div>
      </template>
    </template>
    <template v-else-if="desk.isNarrowed">
      <h1>Nothing matches your filter.</h1>
      <p class="dim"><button class="link" @click="desk.narrow(null)">Show everything due</button></p>
    </template>
    <template v-else-if="queue.list">
      <h1>“{{ queue.list.name }}” is done for now.</h1>
      <p class="dim">
        {{
          queue.counts.later
            ? `${queue.counts.later} on it can’t be called at this hour where they are.`
            : 'No one on it is left for today.'
        }}
        <NuxtLink to="/">Everything due</NuxtLink>
      </p>
    </template>
    <template v-else-if="session.onlyCalls">
      <h1>Nothing is due.</h1>
      <p class="dim">The calls assigned to you are under <NuxtLink to="/blocks">Call blocks</NuxtLink>.</p>
    </template>
    <SetupGuide v-else>
      <h1>Nothing is due.</h1>
      <p v-if="queue.opensNext" class="dim">
        The next
        {{ queue.opensNext.count === 1 ? 'person opens' : `${queue.opensNext.count} people open` }} later today.
      </p>
      <p v-else class="dim">Enroll people in a cadence, and their steps appear here when they are due.</p>
      <div class="row mt-4">
        <v-btn color="primary" to="/prospects">Choose people to work</v-btn
        ><v-btn variant="outlined" to="/imports">Import a file</v-btn>
      </div>
    </SetupGuide>
  </section>
</template>

<style scoped>
.empty {
  margin: 8vh auto;
  max-width: 560px;
  padding: 0 20px;
}
</style>

<script setup lang="ts">
import { ref, shallowRef, watch } from 'vue'
import { useIntervalFn } from '@vueuse/core'
import { useHead } from '#imports'
import { BLOCK_STATUSES, CALL_PURPOSES } from '#core/enumerations'
import { listBlocks, type BlockSummary } from '#shared/api/blocks/blocks'
import { call } from '~/api/call'
import { targetInWords } from '~/components/blocks/blockWords'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** The call blocks: how far each is, who calls, by when. */
useHead({ title: 'Call blocks' })
const times = useTimes()
const notices = useNotices()
const session = useSession()
const blocks = shallowRef<readonly BlockSummary[] | null>(null)
const closed = ref<'yes' | 'no'>('no')
async function read(): Promise<void> {
  const asked = closed.value
  const answer = await call(listBlocks, { query: { closed: asked } })
  // The other ones may be asked for by now.
  if (asked === closed.value) blocks.value = answer.blocks
}
watch(closed, () => read().catch(notices.error), { immediate: true })
useIntervalFn(() => {
  if (document.visibilityState === 'visible') void read().catch(() => {})
}, 5_000)
const day = (iso: string) => times.day(Date.parse(`${iso}T12:00:00Z`), 'UTC')
</script>

<template>
  <div class="page">
    <div class="spread mb-4">
      <div>
        <h1>Call blocks</h1>
        <p class="dim">People handed over to be called in one go, by one caller or by several who share them.</p>
      </div>
      <div class="row">
        <v-btn-toggle v-model="closed" mandatory density="compact" variant="outlined">
          <v-btn value="no" size="small">Open</v-btn><v-btn value="yes" size="small">Closed</v-btn>
        </v-btn-toggle>
        <v-btn v-if="!session.onlyCalls" color="primary" to="/blocks/new">New call block</v-btn>
      </div>
    </div>
    <p v-if="blocks && !blocks.length && session.onlyCalls" class="panel">
      {{ closed === 'yes' ? 'No call block of yours has been closed yet.' : 'You have no call block now.' }}
    </p>
    <p v-else-if="blocks && !blocks.length" class="panel">
      {{
        closed === 'yes'
          ? 'No call block has been closed yet.'
          : 'No call blocks yet. Choose a list, who calls it, a script and a due date, and see what comes of it.'
      }}
      <NuxtLink v-if="closed === 'no'" to="/blocks/new" class="link">Make the first one</NuxtLink>
    </p>
    <table v-if="blocks?.length" class="sheet">
      <thead>
        <tr>
          <th>Call block</th>
          <th>How far</th>
          <th>Callers</th>
          <th>Due</th>
          <th>Target</th>
          <th><span class="sr">Actions</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="block in blocks" :key="block.id">
          <td>
            <b v-if="session.onlyCalls">{{ block.name }}</b><NuxtLink v-else :to="`/blocks/${block.id}`"
              ><b>{{ block.name }}</b></NuxtLink
            ><br /><span class="dim small">{{ CALL_PURPOSES[block.purpose] }}, {{ BLOCK_STATUSES[block.status] }}</span>
          </td>
          <td>
            <BeadString v-if="block.beads.length" :beads="block.beads" :label="block.inWords" mini />
            <p class="dim small">{{ block.inWords }}</p>
          </td>
          <td>{{ block.callers.map(({ name }) => name).join(', ') }}</td>
          <td class="num">{{ block.dueOn ? day(block.dueOn) : '' }}</td>
          <td class="num">{{ targetInWords(block) }}</td>
          <td class="acts">
            <NuxtLink
              v-if="block.status !== 'closed' && block.counts.open"
              :to="{ path: '/', query: { block: block.id } }"
              class="link"
              >Call</NuxtLink
            >
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.acts {
  text-align: right;
}
</style>

<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { navigateTo, useHead, useRoute } from '#imports'
import { beadStrings, type Bead } from '#core/blocks/beads'
import { BLOCK_STATUSES, CALL_PURPOSES, capitalized } from '#core/enumerations'
import { addToBlock, closeBlock, getBlock, removeFromBlock, type Block } from '#shared/api/blocks/blocks'
import { nextPass, skipInBlock } from '#shared/api/blocks/work'
import { call, messageOf } from '~/api/call'
import { useBlockChanges } from '~/components/blocks/blockChanges'
import { targetInWords, timeWorked } from '~/components/blocks/blockWords'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** A call block as it stands: its strings of beads, who calls now, what came of it, every call with its note. */
const route = useRoute()
const id = route.params.id as string
const times = useTimes()
const notices = useNotices()
const block = shallowRef<Block | null>(null)
const lastError = ref('')
useHead({ title: computed(() => block.value?.name ?? 'Call block') })
async function read(): Promise<void> {
  try {
    block.value = await call(getBlock, { params: { id } })
    lastError.value = ''
  } catch (error) {
    lastError.value = messageOf(error, 'This call block could not be read')
  }
}
onMounted(read)
useBlockChanges(id, () => void read())
const strings = computed(() => (block.value ? beadStrings(block.value.beads as Bead[], block.value.callerIds) : []))
const accountOf = (callerId: string | null) => block.value?.account.find(({ caller }) => caller.id === callerId)
const nameOf = (callerId: string | null) => accountOf(callerId)?.caller.name ?? 'Not taken yet'
const several = (count: number, one: string, many = `${one}s`) =>
  `${count.toLocaleString()} ${count === 1 ? one : many}`
function sayString(callerId: string | null, count: number): string {
  const one = accountOf(callerId)
  if (!one) return several(count, 'person', 'people')
  const came = `${one.reached} reached, ${several(one.meetings, 'meeting')}`
  return `${several(one.calls, 'call')}, ${came}, ${timeWorked(one.seconds)}`
}
const day = (iso: string) => times.day(Date.parse(`${iso}T12:00:00Z`), 'UTC')
const target = computed(() => block.value && targetInWords(block.value))
const notReached = computed(() => (block.value ? block.value.counts.tried + block.value.counts.message : 0))
const editing = ref(false)
const adding = ref(false)
const more = ref<z.input<typeof addToBlock.body> | null>(null)
const busy = ref(false)
async function act(work: () => Promise<string>): Promise<void> {
  busy.value = true
  try {
    notices.say(await work())
  } catch (error) {
    notices.error(error)
  }
  await read()
  busy.value = false
}
const close = (closed: boolean) =>
  act(async () => {
    await call(closeBlock, { params: { id }, body: { closed } })
    return closed ? 'Closed. The results stay here.' : 'Reopened.'
  })
const again = () =>
  act(async () => {
    const { open } = await call(nextPass, { params: { id }, body: { pass: block.value!.pass + 1 } })
    return `${several(open, 'person', 'people')} to call again.`
  })
const add = () =>
  act(async () => {
    const { added } = await call(addToBlock, { params: { id }, body: more.value! })
    adding.value = false
    return `${several(added, 'person', 'people')} added.`
  })
const remove = (prospectId: string, name: string) =>
  act(async () => {
    await call(removeFromBlock, { params: { id }, body: { prospectIds: [prospectId] } })
    return `${name} is no longer in the block.`
  })
const putBack = (prospectId: string, name: string) =>
  act(async () => {
    await call(skipInBlock, { params: { id }, body: { prospectId, why: null } })
    return `${name} is called again.`
  })
const still = computed(() => block.value?.beads.filter((bead) => bead.open) ?? [])
</script>

<template>
  <div class="page">
    <p class="dim small"><NuxtLink to="/blocks">Call blocks</NuxtLink></p>
    <p v-if="lastError" class="notice clay" role="alert">{{ lastError }}</p>
    <template v-if="block">
      <div class="spread mb-2">
        <div>
          <h1>{{ block.name }}</h1>
          <p class="dim">
            {{ capitalized(CALL_PURPOSES[block.purpose]) }}, {{ BLOCK_STATUSES[block.status]
            }}<template v-if="block.pass > 1">, pass {{ block.pass }}</template
            ><template v-if="block.dueOn">, due {{ day(block.dueOn) }}</template
            ><template v-if="target">, {{ target }}</template>
          </p>
        </div>
        <div class="row">
          <v-btn
            v-if="block.mayCall && block.counts.open && block.status !== 'closed'"
            color="primary"
            :to="{ path: '/', query: { block: block.id } }"
            >{{ block.made.call ? 'Continue calling' : 'Start calling' }}</v-btn
          >
          <v-btn v-if="block.status === 'done' && notReached" color="primary" :loading="busy" @click="again"
            >Call the {{ notReached }} not reached again</v-btn
          >
          <template v-if="block.mayEdit">
            <v-btn variant="outlined" @click="editing = true">Edit</v-btn>
            <v-btn v-if="block.status !== 'closed'" variant="outlined" @click="adding = !adding">Add people</v-btn>
            <v-btn variant="outlined" :loading="busy" @click="close(block.status !== 'closed')">{{
              block.status === 'closed' ? 'Reopen' : 'Close'
            }}</v-btn>
          </template>
        </div>
      </div>
      <p class="lead">{{ block.inWords }}.</p>

      <section v-if="adding" class="panel mt-3">
        <h2 class="mb-2">Add people</h2>
        <WhoField v-model="more" />
        <FormFooter action="Add" :disabled="!more" :busy="busy" class="mt-3" @act="add" @cancel="adding = false" />
      </section>

      <section class="mt-4" aria-label="Progress">
        <div v-for="string in strings" :key="string.callerId ?? 'free'" class="caller">
          <p>
            <b>{{ nameOf(string.callerId) }}</b>
            <span v-if="accountOf(string.callerId)?.workingNow" class="chip amber ml-2">calling now</span>
            <span class="dim small ml-2">{{ sayString(string.callerId, string.beads.length) }}</span>
          </p>
          <BeadString
            v-if="string.beads.length"
            :beads="string.beads"
            :label="`${nameOf(string.callerId)}: ${sayString(string.callerId, string.beads.length)}`"
            @pick="navigateTo(`/prospects/${$event}`)"
          />
        </div>
        <BeadLegend v-if="strings.length" />
      </section>

      <section class="mt-5">
        <div class="spread">
          <h2>Results by caller</h2>
          <a :href="`/api/call-blocks/${block.id}/account.csv`" class="link small" download>Export as CSV</a>
        </div>
        <BlockAccount :block="block" />
      </section>

      <LazyBlockLines v-if="block.lines > 1" :id="block.id" class="mt-5" />

      <div class="two mt-5">
        <section>
          <h2>Last calls</h2>
          <p v-if="!block.calls.length" class="dim">No calls yet.</p>
          <ul class="calls">
            <li v-for="one in block.calls" :key="one.id">
              <p>
                <NuxtLink :to="`/prospects/${one.prospect.id}`"
                  ><b>{{ one.prospect.name }}</b></NuxtLink
                ><span class="dim small ml-2">{{ one.prospect.company }}</span>
              </p>
              <p class="small">
                {{ one.outcome }} <span class="dim ml-1">{{ one.caller }}, {{ times.moment(one.at) }}</span>
              </p>
              <p v-if="one.note" class="small pre">{{ one.note }}</p>
            </li>
          </ul>
        </section>
        <section>
          <template v-if="block.skipped.length">
            <h2>Skipped</h2>
            <ul class="calls">
              <li v-for="one in block.skipped" :key="one.prospect.id" class="spread">
                <span
                  ><NuxtLink :to="`/prospects/${one.prospect.id}`">{{ one.prospect.name }}</NuxtLink>
                  <span class="dim small ml-2">{{ one.why }}</span></span
                ><button
                  v-if="block.mayCall && block.status !== 'closed'"
                  class="link small"
                  @click="putBack(one.prospect.id, one.prospect.name)"
                >
                  Put back
                </button>
              </li>
            </ul>
          </template>
          <template v-if="still.length">
            <h2 :class="{ 'mt-4': block.skipped.length }">Still to call</h2>
            <ul class="calls">
              <li v-for="one in still.slice(0, 50)" :key="one.prospectId" class="spread">
                <NuxtLink :to="`/prospects/${one.prospectId}`">{{ one.name }}</NuxtLink><span
                  v-if="one.dialer"
                  class="dim small"
                  >with {{ one.dialer }}</span
                ><span v-else-if="one.inHand" class="dim small">{{ nameOf(one.callerId) }} has them</span
                ><button
                  v-else-if="block.mayEdit"
                  class="link small"
                  :aria-label="`Remove ${one.name}`"
                  @click="remove(one.prospectId, one.name)"
                >
                  Remove
                </button>
              </li>
            </ul>
            <p v-if="still.length > 50" class="dim small">and {{ still.length - 50 }} more</p>
          </template>
        </section>
      </div>

      <LazyBlockExports
        v-if="block.mayEdit"
        :id="block.id"
        class="mt-5"
        :closed="block.status === 'closed'"
        @changed="read"
      />
      <LazyEditBlock v-if="editing" v-model="editing" :block="block" @done="read" />
    </template>
  </div>
</template>

<style scoped>
.lead {
  font-size: 1.1rem;
}
.caller {
  padding: 8px 0 10px;
  border-top: 1px solid var(--line);
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 28px;
}
.calls {
  list-style: none;
  padding: 0;
}
.calls li {
  border-top: 1px solid var(--line);
  padding: 7px 2px;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>

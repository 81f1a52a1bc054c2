<script setup lang="ts">
import { computed, ref } from 'vue'
import type { z } from 'zod'
import { mergeProspects, tellApart, undoMerge, type findDuplicates } from '#shared/api/duplicates'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** Two people who may be one, side by side: the user sees what differs, and which of the two stays. */
type Pair = z.output<typeof findDuplicates.response>['pairs'][number]
type Like = Pair['one']
const props = defineProps<{
  pair: Pair
  /** The person whose page it stands on: then it is a line that opens. */ about?: string
}>()
const open = ref(!props.about)
const twin = computed(() => (props.pair.one.id === props.about ? props.pair.other : props.pair.one))
const emit = defineEmits<{ settled: [primaryId: string | null]; undone: [] }>()
const times = useTimes()
const notices = useNotices()
const busy = ref(false)
const LINES: { label: string; of: (one: Like) => string }[] = [
  { label: 'Job title', of: (one) => one.title ?? '' },
  { label: 'Company', of: (one) => one.company ?? '' },
  { label: 'Stage', of: (one) => one.stage },
  { label: 'Numbers', of: (one) => one.phones.join(', ') },
  { label: 'Addresses', of: (one) => one.emails.join(', ') },
  { label: 'Owner', of: (one) => one.owner ?? 'nobody' },
  { label: 'Touches', of: (one) => String(one.touches) },
  { label: 'Added', of: (one) => times.day(one.createdAt) },
]
const both = computed(() => [props.pair.one, props.pair.other] as const)

async function keep(primary: Like, duplicate: Like): Promise<void> {
  if (busy.value) return
  busy.value = true
  try {
    const mergeId = newId()
    const { summary: label } = await call(mergeProspects, {
      params: { id: primary.id },
      body: { id: mergeId, duplicateId: duplicate.id },
    })
    notices.say(`${primary.name}: ${label}`, { label: 'Undo', run: () => void back(mergeId) })
    emit('settled', primary.id)
  } catch (error) {
    notices.error(error)
  }
  busy.value = false
}
async function back(mergeId: string): Promise<void> {
  try {
    const { unchanged } = await call(undoMerge, { params: { id: mergeId } })
    notices.say(['They are two prospects again.', ...unchanged].join(' '))
    emit('undone')
  } catch (error) {
    notices.error(error)
  }
}
async function apart(): Promise<void> {
  if (busy.value) return
  busy.value = true
  try {
    await call(tellApart, { body: { ids: [props.pair.one.id, props.pair.other.id] } })
    notices.say('Marked as not duplicates.')
    emit('settled', null)
  } catch (error) {
    notices.error(error)
  }
  busy.value = false
}
</script>

<template>
  <section class="panel twins" :aria-label="`${pair.one.name} and ${pair.other.name}`">
    <p class="why dim small">
      <span v-if="about"
        >May be the same person as <NuxtLink :to="`/prospects/${twin.id}`">{{ twin.name }}</NuxtLink>:
        {{ pair.reasons.join(', ') }}.
        <button class="link" :aria-expanded="open" @click="open = !open">{{ open ? 'Close' : 'Compare' }}</button></span
      ><span v-else
        ><span class="chip" :class="pair.sureness >= 0.85 ? 'amber' : 'slate'">{{
          pair.sureness >= 0.85 ? 'very likely one' : 'maybe one'
        }}</span>
        {{ pair.reasons.join(', ') }}</span
      >
    </p>
    <table v-if="open">
      <thead>
        <tr>
          <td />
          <th v-for="one in both" :key="one.id" scope="col">
            <NuxtLink :to="`/prospects/${one.id}`">{{ one.name }}</NuxtLink>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="line in LINES" :key="line.label" :class="{ differs: line.of(pair.one) !== line.of(pair.other) }">
          <th scope="row" class="dim">{{ line.label }}</th>
          <td v-for="one in both" :key="one.id">{{ line.of(one) || '—' }}</td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td />
          <td>
            <v-btn size="small" color="primary" :disabled="busy" @click="keep(pair.one, pair.other)"
              >Keep this one</v-btn
            >
          </td>
          <td class="row">
            <v-btn size="small" color="primary" :disabled="busy" @click="keep(pair.other, pair.one)"
              >Keep this one</v-btn
            ><button class="link small" :disabled="busy" @click="apart">Not duplicates</button>
          </td>
        </tr>
      </tfoot>
    </table>
  </section>
</template>

<style scoped>
.why {
  margin-bottom: 2px;
}
.why .link,
.why a {
  display: inline-block;
  min-height: 24px;
  line-height: 24px;
}
table {
  border-collapse: collapse;
  width: 100%;
  table-layout: fixed;
}
th,
td {
  text-align: left;
  padding: 2px 10px 2px 0;
  vertical-align: top;
  overflow-wrap: anywhere;
}
th[scope='row'] {
  width: 96px;
  font-weight: 400;
}
thead td {
  width: 96px;
}
tbody tr:not(.differs) td {
  color: var(--dim);
}
tfoot td {
  padding-top: 8px;
}
td.row {
  display: flex;
  flex-wrap: wrap;
}
</style>

<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { forReading } from '#core/filter/sentence'
import { getBulk, listBulk, type BulkAction } from '#shared/api/bulk'
import { call } from '~/composables/api'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** The accounts of every change of many: what it was, whom it touched, whom it left out and why. */
const times = useTimes()
const notices = useNotices()
const changes = shallowRef<z.output<typeof listBulk.response>['changes'] | null>(null)
const open = ref<string | null>(null)
const account = shallowRef<z.output<typeof getBulk.response> | null>(null)
let timer: ReturnType<typeof setTimeout> | undefined
async function read(): Promise<void> {
  changes.value = (await call(listBulk)).changes
  // What is still at work is looked at again, until it is done.
  if (changes.value.some(change => change.state !== 'done')) timer = setTimeout(() => void read().catch(notices.wrong), 1_500)
}
onMounted(() => read().catch(notices.wrong))
onBeforeUnmount(() => clearTimeout(timer))
async function show(id: string): Promise<void> {
  open.value = open.value === id ? null : id
  account.value = null
  if (open.value) account.value = await call(getBulk, { params: { id } }).catch((error) => { notices.wrong(error); return null })
}
/** What was done, in words. */
function inWords(action: BulkAction): string {
  switch (action.do) {
    case 'assign': return action.to.length > 1 ? `Assigned in turn to ${action.to.length}` : 'Assigned to one'
    case 'assignToCompanyOwner': return 'Assigned to whoever has the company'
    case 'tag': return `Tag “${action.tag}” put on`
    case 'untag': return `Tag “${action.tag}” taken off`
    case 'rate': return action.rating === 'score' ? 'Rated by the score' : action.rating ? `Rated ${action.rating}` : 'Rating taken off'
    case 'work': return { in_work: 'Put in work', resting: 'Laid to rest', removed: 'Removed' }[action.working]
    case 'putOn': return 'Put on a list'
    case 'setField': return action.value === null || action.value === '' ? 'A field emptied' : 'A field set'
    case 'enroll': return 'Enrolled in a cadence'
    case 'leaveCadences': return action.cadenceId ? 'Taken out of a cadence' : 'Taken out of all cadences'
    case 'stop': return { call: 'Calls stopped', email: 'Email stopped', all: 'Stopped' }[action.channel]
    case 'plan': return `${action.task === 'call' ? 'Call' : 'Task'} planned: ${action.title}`
    case 'mail': return `Mail written: ${action.subject}`
  }
}
const inFigures = (count: number) => count.toLocaleString('en-US')
</script>

<template>
  <div class="page narrow">
    <p class="dim small back"><NuxtLink to="/prospects">Prospects</NuxtLink></p>
    <h1 class="mb-1">Changes of many</h1>
    <p class="dim mb-4">Each with its account: whom it touched, and whom it left out and why.</p>
    <p v-if="changes && !changes.length" class="panel">Nothing was changed for many at once yet. Choose people in a list, then “Change …”.</p>
    <div v-else-if="changes" class="scroll"><table class="sheet">
      <thead><tr><th>What</th><th>For whom</th><th>By</th><th>When</th><th class="right">Changed</th><th /></tr></thead>
      <tbody v-for="change in changes" :key="change.id">
        <tr><td>{{ inWords(change.action) }}</td><td class="dim about">{{ forReading(change.about) }}</td><td class="dim">{{ change.by }}</td><td class="num dim">{{ times.moment(change.at) }}</td><td class="num right">{{ change.state === 'done' ? inFigures(change.done) : `${inFigures(change.done)} of ${inFigures(change.touches)}` }}</td><td class="right"><button class="link small" :aria-expanded="open === change.id" :aria-label="`The account of “${inWords(change.action)}”, ${times.moment(change.at)}`" @click="show(change.id)">{{ open === change.id ? 'Close' : 'Account' }}</button></td></tr>
        <tr v-if="open === change.id && account"><td colspan="6"><p v-if="!account.leftOut.length" class="dim">Nobody was left out.</p><LeftOut :left-out="account.leftOut" /></td></tr>
      </tbody>
    </table></div>
  </div>
</template>

<style scoped>
.narrow { max-width: 860px; } .scroll { overflow-x: auto; } .right { text-align: right; } .about { max-width: 240px; overflow-wrap: anywhere; }
</style>

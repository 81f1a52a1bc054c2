<script setup lang="ts">
import { computed, onBeforeUnmount, reactive, ref, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import type { Filter } from '#core/filter/filter'
import { getBulk, previewBulk, startBulk, type BulkAction } from '#shared/api/bulk'
import { listTags } from '#shared/api/fields'
import { listUsers } from '#shared/api/settings'
import type { List } from '#shared/api/lists'
import { ApiError, call } from '~/composables/api'

/** One change to many people: says beforehand whom it touches and whom it leaves out, then shows how far it is, then the same account. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ whom: { prospectIds?: string[], filter?: Filter, list?: string, search?: string }, count: number, lists: readonly List[] }>()
const emit = defineEmits<{ done: [] }>()
const ACTS: { do: BulkAction['do'], title: string }[] = [{ do: 'assign', title: 'Assign to' }, { do: 'tag', title: 'Put a tag on' }, { do: 'untag', title: 'Take a tag off' }, { do: 'rate', title: 'Rate' }, { do: 'work', title: 'Set in work, resting or removed' }, { do: 'putOn', title: 'Put on a fixed list' }]
const given = reactive({ do: 'assign' as BulkAction['do'], to: [] as string[], tag: '', rating: 'warm' as 'hot' | 'warm' | 'cold' | null, working: 'resting' as 'in_work' | 'resting' | 'removed', listId: null as string | null })
const users = ref<{ id: string, name: string }[]>([])
const tags = ref<string[]>([])
const preview = shallowRef<z.output<typeof previewBulk.response> | null>(null)
const account = shallowRef<z.output<typeof getBulk.response> | null>(null)
const wrong = ref('')
const busy = ref(false)
let timer: ReturnType<typeof setTimeout>
onBeforeUnmount(() => clearTimeout(timer))

const action = computed<BulkAction | null>(() => {
  switch (given.do) {
    case 'assign': return given.to.length ? { do: 'assign', to: given.to } : null
    case 'tag': case 'untag': return given.tag.trim() ? { do: given.do, tag: given.tag.trim() } : null
    case 'rate': return { do: 'rate', rating: given.rating }
    case 'work': return { do: 'work', working: given.working }
    default: return given.listId ? { do: 'putOn', listId: given.listId } : null
  }
})
watch(open, async (now) => {
  clearTimeout(timer)
  if (!now) return
  account.value = preview.value = null
  wrong.value = ''
  ;[users.value, tags.value] = await Promise.all([call(listUsers).then(answer => answer.users.filter(user => user.active), () => []), call(listTags).then(answer => answer.tags.map(tag => tag.name), () => [])])
})
let asked: AbortController | null = null
watch([action, open], async () => {
  asked?.abort()
  preview.value = null
  wrong.value = ''
  if (!action.value || !open.value || account.value) return
  asked = new AbortController()
  try {
    preview.value = await call(previewBulk, { body: { action: action.value, ...props.whom }, signal: asked.signal })
  }
  catch (error) {
    if (error instanceof ApiError) wrong.value = error.message
  }
})
async function start(): Promise<void> {
  busy.value = true
  try {
    const { id } = await call(startBulk, { body: { id: crypto.randomUUID(), action: action.value!, ...props.whom } })
    await follow(id)
  }
  catch (error) {
    wrong.value = error instanceof ApiError ? error.message : 'It could not be started'
  }
  busy.value = false
}
/** Looks how far it is; whoever closes the window leaves it to go on by itself. */
async function follow(id: string): Promise<void> {
  account.value = await call(getBulk, { params: { id } })
  if (account.value.state === 'done') return emit('done')
  timer = setTimeout(() => { if (open.value) follow(id).catch(() => { timer = setTimeout(() => void follow(id), 3_000) }) }, 400)
}
const people = (count: number) => `${count.toLocaleString('en-US')} ${count === 1 ? 'person' : 'people'}`
const leftOut = computed(() => account.value?.leftOut ?? preview.value?.leftOut ?? [])
</script>

<template>
  <v-dialog v-model="open" max-width="520">
    <v-card class="pa-5">
      <h2 class="mb-3">Change {{ people(count) }}</h2>
      <form v-if="!account" class="stack" @submit.prevent="start">
        <v-select v-model="given.do" :items="ACTS" item-value="do" item-title="title" label="What to do" />
        <v-select v-if="given.do === 'assign'" v-model="given.to" :items="users" item-value="id" item-title="name" label="Whom; several take turns" multiple />
        <v-combobox v-else-if="given.do === 'tag' || given.do === 'untag'" v-model="given.tag" :items="tags" label="Tag" maxlength="60" />
        <v-select v-else-if="given.do === 'rate'" v-model="given.rating" label="Rating" :items="[{ value: 'hot', title: 'hot' }, { value: 'warm', title: 'warm' }, { value: 'cold', title: 'cold' }, { value: null, title: 'none' }]" />
        <v-select v-else-if="given.do === 'work'" v-model="given.working" label="Work" :items="[{ value: 'in_work', title: 'in work' }, { value: 'resting', title: 'resting' }, { value: 'removed', title: 'removed: out of sight, not deleted' }]" />
        <v-select v-else v-model="given.listId" :items="lists.filter(list => list.kind === 'fixed' && list.mayEdit)" item-value="id" item-title="name" label="List" />
        <p v-if="wrong" class="notice clay" role="alert">{{ wrong }}</p>
        <div v-if="preview" role="status"><p><b>{{ people(preview.touches) }}</b> will change.</p></div>
        <p v-else-if="!wrong" class="dim">{{ action ? 'Counting …' : 'Choose, and whom it touches is said here before anything happens.' }}</p>
        <LeftOut :left-out="leftOut" />
        <div class="row"><v-btn type="submit" color="primary" :disabled="!preview?.touches" :loading="busy">Change {{ preview ? people(preview.touches) : '' }}</v-btn><v-btn variant="text" @click="open = false">Leave it</v-btn></div>
      </form>
      <div v-else class="stack">
        <v-progress-linear v-if="account.state !== 'done'" :model-value="account.touches ? 100 * account.done / account.touches : 0" color="primary" aria-label="How far it is" />
        <p role="status"><b>{{ account.state === 'done' ? `${people(account.done)} changed.` : `${account.done.toLocaleString('en-US')} of ${people(account.touches)} changed; it goes on when you leave.` }}</b></p>
        <LeftOut :left-out="leftOut" />
        <div class="row"><v-btn color="primary" @click="open = false">Good</v-btn></div>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.stack { display: grid; gap: 12px; }
</style>

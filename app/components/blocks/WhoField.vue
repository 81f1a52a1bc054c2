<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import { useRoute } from '#imports'
import { listBlocks, type addToBlock } from '#shared/api/blocks/blocks'
import { filterFields } from '#shared/api/lists'
import { call } from '~/api/call'
import { useNotices } from '~/stores/notices'

/** Who is to be called: a list, those who were selected, or those of a block before who were not reached. */
type Who = z.input<typeof addToBlock.body>
const who = defineModel<Who | null>({ required: true })
const notices = useNotices()
const route = useRoute()
const from = ref<'list' | 'chosen' | 'block'>('list')
const list = ref<string | null>(null)
const chosen = ref<string[]>([])
const blockId = ref<string | null>(null)
const tried = ref(false)
const attempts = ref({ from: 0, to: 2 })
const lists = shallowRef<readonly { id: string; name: string }[]>([])
const blocks = shallowRef<readonly { id: string; name: string }[]>([])
onMounted(async () => {
  try {
    const [{ fields }, open, closed] = await Promise.all([
      call(filterFields),
      call(listBlocks, { query: {} }),
      call(listBlocks, { query: { closed: 'yes' } }),
    ])
    lists.value = fields.find((field) => field.key === 'lists')?.choices ?? []
    blocks.value = [...open.blocks, ...closed.blocks]
    const { list: onList, people, block } = route.query
    if (typeof onList === 'string') list.value = onList
    if (typeof people === 'string') [from.value, chosen.value] = ['chosen', people.split(',')]
    if (typeof block === 'string') [from.value, blockId.value] = ['block', block]
  } catch (error) {
    notices.error(error)
  }
})
const asked = computed((): Who | null => {
  const range = tried.value ? { attempts: { ...attempts.value } } : {}
  if (from.value === 'list') return list.value ? { who: { list: list.value }, ...range } : null
  if (from.value === 'chosen') return chosen.value.length ? { who: { prospectIds: chosen.value }, ...range } : null
  return blockId.value ? { notReachedIn: blockId.value, ...range } : null
})
watch(asked, (now) => {
  who.value = now
})
</script>

<template>
  <div class="who">
    <v-btn-toggle v-model="from" mandatory density="compact" variant="outlined">
      <v-btn value="list" size="small">A list</v-btn><v-btn value="block" size="small">Not reached in a block</v-btn
      ><v-btn v-if="chosen.length" value="chosen" size="small">Selected</v-btn>
    </v-btn-toggle>
    <v-autocomplete
      v-if="from === 'list'"
      v-model="list"
      :items="lists"
      item-value="id"
      item-title="name"
      label="List"
    />
    <v-autocomplete
      v-else-if="from === 'block'"
      v-model="blockId"
      :items="blocks"
      item-value="id"
      item-title="name"
      label="Call block"
    />
    <p v-else class="small">{{ chosen.length.toLocaleString() }} selected in the list.</p>
    <CheckBox v-model="tried" label="Limit by attempts so far" />
    <div v-if="tried" class="row">
      <v-text-field v-model.number="attempts.from" type="number" min="0" label="From" /><v-text-field
        v-model.number="attempts.to"
        type="number"
        min="0"
        label="To"
      />
    </div>
    <p class="dim small">
      From a filter: save it as a list, or select people under <NuxtLink to="/prospects">Prospects</NuxtLink>.
    </p>
  </div>
</template>

<style scoped>
.who {
  display: grid;
  gap: 12px;
}
</style>

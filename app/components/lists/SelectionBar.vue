<script setup lang="ts">
import { computed } from 'vue'
import { addToList, removeFromList, type List } from '#shared/api/lists'
import { call } from '~/api/call'
import { useNotices } from '~/stores/notices'

/** What can be done with the people who are selected; stands at the foot while there are some. */
const props = defineProps<{
  ids: readonly string[]
  /** Everyone who matches is selected, not those shown alone; said as "4,210 people". */
  everyone: boolean
  inPeople: string
  /** Whether more match than are shown. */
  more: boolean
  list: List | null
  lists: readonly List[]
}>()
const emit = defineEmits<{
  everyone: []
  enroll: []
  change: []
  keep: []
  merge: []
  clear: []
  /** People were put on a list or taken off it. */
  changed: [listId: string]
}>()
const notices = useNotices()
/** More people than this are hardly one. */
const MOST_MERGED = 10
const fixed = computed(() => props.lists.filter((one) => one.kind === 'fixed' && one.mayEdit && one !== props.list))

async function putOn(list: List): Promise<void> {
  try {
    const { added, already } = await call(addToList, {
      params: { id: list.id },
      body: { prospectIds: [...props.ids] },
    })
    notices.say(`${added} put on “${list.name}”${already ? `, ${already} were on it already` : ''}.`)
    emit('changed', list.id)
  } catch (error) {
    notices.error(error)
  }
}
async function takeOff(list: List): Promise<void> {
  try {
    const { removed } = await call(removeFromList, {
      params: { id: list.id },
      body: { prospectIds: [...props.ids] },
    })
    notices.say(`${removed} taken off “${list.name}”.`)
    emit('changed', list.id)
  } catch (error) {
    notices.error(error)
  }
}
</script>

<template>
  <div class="bulk row">
    <b class="num">{{ everyone ? `All ${inPeople} selected` : `${ids.length} selected` }}</b>
    <button v-if="!everyone && more" class="link small" @click="emit('everyone')">
      Select all {{ inPeople }} matching
    </button>
    <v-btn v-if="!everyone" color="primary" size="small" @click="emit('enroll')">Enroll in a cadence</v-btn>
    <v-btn
      v-if="!everyone"
      size="small"
      variant="outlined"
      :to="{ path: '/blocks/new', query: { people: ids.join(',') } }"
      >Call block</v-btn
    >
    <v-btn size="small" variant="outlined" @click="emit('change')">Change …</v-btn>
    <template v-if="!everyone">
      <v-menu v-if="fixed.length">
        <template #activator="{ props: act }">
          <v-btn v-bind="act" size="small" variant="outlined">Add to a list</v-btn>
        </template>
        <v-list>
          <v-list-item v-for="one in fixed" :key="one.id" :title="one.name" @click="putOn(one)" />
        </v-list>
      </v-menu>
      <v-btn size="small" variant="outlined" @click="emit('keep')">New list from selection</v-btn>
      <v-btn v-if="list?.kind === 'fixed' && list.mayEdit" size="small" variant="outlined" @click="takeOff(list)">
        Remove from list
      </v-btn>
      <v-btn v-if="ids.length > 1 && ids.length <= MOST_MERGED" size="small" variant="outlined" @click="emit('merge')">
        Merge
      </v-btn>
    </template>
    <v-btn variant="text" size="small" @click="emit('clear')">Clear selection</v-btn>
  </div>
</template>

<style scoped>
/* At the foot, so that selecting moves no row away from under the pointer. */
.bulk {
  order: 1;
  padding: 6px 10px;
  background: var(--card);
  border: 1px solid var(--line);
  border-radius: 8px;
}
</style>

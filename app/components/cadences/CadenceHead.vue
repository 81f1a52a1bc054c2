<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { exportCadence } from '#shared/api/cadences/cadenceFile'
import type { Cadence } from '#shared/api/cadences/cadences'
import { call } from '~/api/call'
import { useNotices } from '~/stores/notices'

/** The name of a cadence, how it stands, and what can be done with it as a whole; in sight wherever one edits. */
const name = defineModel<string>({ required: true })
const notices = useNotices()
const props = defineProps<{
  cadence: Cadence
  /** How many are in it. */
  people: number
  dirty: boolean
  busy: boolean
  editable: boolean
}>()
const emit = defineEmits<{
  save: []
  start: []
  status: [to: 'active' | 'paused']
  copy: []
  archive: []
}>()
/** Ctrl Enter saves, wherever the cursor is; a text that is edited does not take it for a new line. */
useEventListener(
  document,
  'keydown',
  (event) => {
    if (event.key !== 'Enter' || !(event.ctrlKey || event.metaKey) || event.repeat) return
    if (!props.editable || (event.target as Element).closest('.v-overlay')) return
    event.preventDefault()
    event.stopPropagation()
    if (props.dirty && !props.busy) emit('save')
  },
  { capture: true },
)
/** Hands the cadence, as it was saved last, to the browser as a file. */
async function saveFile(): Promise<void> {
  try {
    const file = await call(exportCadence, { params: { id: props.cadence.id } })
    const link = document.createElement('a')
    link.href = URL.createObjectURL(new Blob([JSON.stringify(file, null, 2)], { type: 'application/json' }))
    link.download = `${props.cadence.name.replace(/[^\p{L}\p{N}]+/gu, '-')}.json`
    link.click()
    URL.revokeObjectURL(link.href)
  } catch (error) {
    notices.error(error)
  }
}
</script>

<template>
  <div class="head">
    <slot />
    <div class="spread">
      <input v-model="name" class="title" aria-label="Name of the cadence" maxlength="200" :readonly="!editable" />
      <div v-if="editable" class="row">
        <v-btn v-if="cadence.status === 'active'" color="primary" :to="`/cadences/${cadence.id}/launch`"
          >Add people</v-btn
        >
        <NuxtLink v-if="cadence.status !== 'draft'" class="link small" :to="`/cadences/${cadence.id}/results`"
          >Results</NuxtLink
        >
        <span class="chip" :class="cadence.status === 'active' ? 'pine' : cadence.status === 'paused' ? 'amber' : ''">{{
          cadence.status
        }}</span>
        <NuxtLink
          v-if="people"
          class="link small num"
          :to="{ path: '/prospects', query: { filter: `cadences now has &quot;${cadence.name}&quot;` } }"
          >{{ people.toLocaleString('en-US') }} active</NuxtLink
        >
        <span v-if="dirty" class="dim small">not saved</span>
        <v-btn
          variant="outlined"
          :loading="busy"
          :disabled="!dirty"
          aria-keyshortcuts="Control+Enter"
          @click="emit('save')"
          >Save <kbd v-if="dirty" class="ml-2" aria-hidden="true">Ctrl Enter</kbd></v-btn
        >
        <v-btn v-if="cadence.status === 'active'" variant="outlined" @click="emit('status', 'paused')">Pause</v-btn>
        <v-btn v-if="cadence.status === 'paused'" color="primary" @click="emit('status', 'active')">Resume</v-btn>
        <v-menu
          ><template #activator="{ props: act }"><button v-bind="act" class="link small">More</button></template
          ><v-list
            ><v-list-item title="Copy" @click="emit('copy')" /><v-list-item
              title="Save as a file"
              @click="saveFile" /><v-list-item
              v-if="cadence.status !== 'archived'"
              title="Archive …"
              @click="emit('archive')" /><v-list-item
              v-else
              title="Restore"
              @click="emit('status', 'active')" /></v-list
        ></v-menu>
        <v-btn
          v-if="cadence.status === 'draft'"
          color="primary"
          :disabled="!cadence.steps.length"
          @click="emit('start')"
          >Save and start</v-btn
        >
      </div>
      <div v-else class="row">
        <NuxtLink v-if="cadence.status !== 'draft'" class="link small" :to="`/cadences/${cadence.id}/results`"
          >Results</NuxtLink
        >
        <span class="chip" :class="cadence.status === 'active' ? 'pine' : ''">{{ cadence.status }}</span>
        <v-btn v-if="cadence.status === 'active'" color="primary" :to="`/cadences/${cadence.id}/launch`"
          >Add people</v-btn
        >
        <v-btn variant="outlined" title="Makes a draft of your own" @click="emit('copy')">Copy</v-btn>
      </div>
    </div>
  </div>
</template>

<style scoped>
.head {
  position: sticky;
  top: 46px;
  z-index: 3;
  margin-bottom: 4px;
  padding: 4px 0;
  background: var(--paper);
}
.title {
  font: inherit;
  font-size: 1.5rem;
  font-weight: 650;
  border: 1px solid transparent;
  border-radius: 6px;
  padding: 2px 6px;
  margin-left: -7px;
  background: none;
  color: inherit;
  flex: 1;
}
.title:hover,
.title:focus {
  border-color: var(--line);
  background: var(--card);
}
@media (max-width: 760px) {
  .head {
    position: static;
  }
  .spread,
  .row {
    flex-wrap: wrap;
  }
  .title {
    min-width: 0;
    width: 100%;
  }
}
</style>

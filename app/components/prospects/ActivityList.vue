<script setup lang="ts">
import type { HistoryEntry } from '#shared/api/events/history'
import { useTimes } from '~/composables/times'

/** All that happened with a person, latest first: what was done, what it changed and why, and what can be undone. */
defineProps<{ entries: readonly HistoryEntry[] }>()
const emit = defineEmits<{ undo: [entry: HistoryEntry] }>()
const times = useTimes()
</script>

<template>
  <ol class="history">
    <li v-for="entry in entries" :key="entry.id" :class="{ undone: entry.undone }">
      <span class="when num dim small">{{ times.moment(entry.at) }}</span>
      <span class="sign"><StepIcon v-if="entry.knot" :kind="entry.knot" :size="15" color="var(--pine)" /></span>
      <div>
        <p>
          <b>{{ entry.title }}</b> <span v-if="entry.by" class="dim">{{ entry.by }}</span>
          <span v-if="entry.undone" class="chip">undone</span>
        </p>
        <p v-if="entry.body" class="pre quote">{{ entry.body }}</p>
        <p v-if="entry.note" class="pre quote">{{ entry.note }}</p>
        <audio
          v-if="entry.recording"
          controls
          preload="none"
          :src="`/api/calls/${entry.recording.callId}/recording`"
          :aria-label="`Recording of the call, ${times.moment(entry.at)}`"
        />
        <ul v-if="entry.changes.length">
          <li v-for="(change, index) in entry.changes" :key="index">
            {{ change.summary }} <span class="dim small">· {{ change.cause }}</span>
          </li>
        </ul>
      </div>
      <button v-if="entry.canUndo" class="link small" @click="emit('undo', entry)">Undo</button>
    </li>
  </ol>
</template>

<style scoped>
.history {
  list-style: none;
  margin: 10px 0 0;
  padding: 0;
}
.history > li {
  display: grid;
  grid-template-columns: 146px 22px 1fr auto;
  gap: 6px;
  padding: 8px 0;
  border-top: 1px solid var(--line);
  align-items: start;
}
.history ul {
  margin: 2px 0 0;
  padding-left: 16px;
}
.undone ul,
.undone .quote {
  color: var(--dim);
  text-decoration: line-through;
}
.undone b {
  text-decoration: line-through;
}
.quote {
  border-left: 3px solid var(--line);
  padding-left: 8px;
  margin: 3px 0;
  max-height: 200px;
  overflow: auto;
}
audio {
  height: 32px;
  margin: 4px 0;
  max-width: 100%;
}
.when {
  padding-top: 1px;
}
</style>

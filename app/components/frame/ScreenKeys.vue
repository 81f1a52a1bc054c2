<script setup lang="ts">
import { computed } from 'vue'
import { screenKeys } from '~/composables/keys'
import { useSession } from '~/stores/session'

/** The keys of the screen that is shown, by what they do. */
const shown = defineModel<boolean>({ required: true })
const session = useSession()
const keys = computed(() =>
  screenKeys.value
    .map(({ key, label }) => ({ key: inWords(key), name: typeof label === 'string' ? label : label() }))
    .filter((one) => one.name),
)
const PRINTED: Record<string, string> = { ' ': 'Space', ArrowLeft: '←', ArrowRight: '→', Escape: 'Esc' }
/** A key as keyboards have it printed. */
const inWords = (key: string) => PRINTED[key] ?? (key.length === 1 ? key.toUpperCase() : key)
</script>

<template>
  <v-dialog v-model="shown" :max-width="keys.length > 14 ? 760 : 460" aria-label="Keys of this screen">
    <v-card class="pa-5">
      <div class="spread mb-3">
        <h2>Keys of this screen</h2>
        <v-btn size="small" variant="text" autofocus @click="shown = false">Close</v-btn>
      </div>
      <p v-if="!keys.length" class="dim">This screen has no keys of its own.</p>
      <div class="keys">
        <div v-for="one in keys" :key="one.key" class="spread py-1">
          <span>{{ one.name }}</span><kbd>{{ one.key }}</kbd>
        </div>
        <div v-if="!session.onlyCalls" class="spread py-1"><span>Find or do anything</span><kbd>Ctrl K</kbd></div>
        <div class="spread py-1"><span>These keys</span><kbd>?</kbd></div>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.keys {
  columns: 300px 2;
  column-gap: 40px;
}
.keys > * {
  break-inside: avoid;
}
</style>

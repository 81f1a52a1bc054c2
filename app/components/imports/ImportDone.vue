<script setup lang="ts">
import { ref } from 'vue'
import type { Import } from '#shared/api/imports'
import { useSession } from '~/stores/session'

/** What an import did, and what to do next with those it imported; a manager can undo it. */
defineProps<{ counts: Partial<NonNullable<Import['counts']>>; importId: string; ofCompanies: boolean }>()
const session = useSession()
const enrolling = ref(false)
const undoing = ref(false)
const show = (count: number | undefined) => (count ?? 0).toLocaleString('en-US')
</script>

<template>
  <section>
    <h2 class="mb-3">Done</h2>
    <p class="notice pine">
      <b class="num">{{ show(counts.added) }}</b> added, {{ show(counts.updated) }} updated,
      {{ show(counts.skipped) }} left as they were<template v-if="!ofCompanies"
        >, {{ show(counts.companies) }} new {{ counts.companies === 1 ? 'company' : 'companies' }}</template
      >.
    </p>
    <p v-if="counts.invalid" class="mt-3">
      {{ show(counts.invalid) }} rows could not be imported.
      <a class="link" :href="`/api/imports/${importId}/invalid.csv`" download>Download them with the reason</a>
    </p>
    <div v-if="ofCompanies" class="row mt-4">
      <v-btn variant="outlined" to="/prospects?by=companies">See the companies</v-btn>
    </div>
    <div v-else class="row mt-4">
      <v-btn color="primary" :disabled="!counts.added" @click="enrolling = true">Enroll them in a cadence</v-btn
      ><v-btn variant="outlined" :to="`/prospects?import=${importId}`">See them</v-btn
      ><v-btn v-if="session.manages && counts.added" variant="text" @click="undoing = true">Undo this import</v-btn>
    </div>
    <UndoImport v-model="undoing" :import-id="importId" />
    <EnrollDialog v-model="enrolling" :import-id="importId" />
  </section>
</template>

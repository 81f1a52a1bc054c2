<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import type { CompanyStatus } from '#core/enumerations'
import { findAnything } from '#shared/api/find'
import { getCompany } from '#shared/api/companies'
import { useAnswer } from '~/composables/answer'
import { call } from '~/api/call'
import { useNotices } from '~/stores/notices'

/** Finds the company that this one is the same as, and merges the two. */
interface CompanyLike {
  id: string
  name: string
  domain: string | null
  people: number
  status: CompanyStatus
  city: string | null
}
const props = defineProps<{ company: CompanyLike }>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ merged: [primaryId: string]; undone: [] }>()
const notices = useNotices()
const search = ref('')
// What was found for other letters is not offered for these.
const { answer, lastError } = useAnswer(
  findAnything,
  () => (search.value.trim().length < 2 ? null : { query: { text: search.value } }),
  {
    failed: 'The companies could not be read',
  },
)
const other = shallowRef<CompanyLike | null>(null)
const choices = computed(() => (answer.value?.companies ?? []).filter((one) => one.id !== props.company.id))
watch(open, () => {
  search.value = ''
  other.value = null
})
async function choose(id: string): Promise<void> {
  try {
    const { people, hidden, status, ...company } = await call(getCompany, { params: { id } })
    other.value = { ...company, status, people: people.length + hidden }
  } catch (error) {
    notices.error(error)
  }
}
function done(primaryId: string): void {
  open.value = false
  emit('merged', primaryId)
}
</script>

<template>
  <v-dialog v-model="open" max-width="620" aria-label="Merge companies">
    <v-card class="pa-5">
      <h2>Merge {{ company.name }} with another company</h2>
      <p class="dim mb-3">
        Everyone there, deals, notes and links move to the company you keep, which fills its blanks from the other. The
        stricter status holds for everyone. You can undo it.
      </p>
      <template v-if="other">
        <CompanyPair :one="company" :other="other" @merged="done" @undone="emit('undone')" />
        <div class="row mt-3">
          <v-btn variant="text" @click="other = null">Choose another company</v-btn
          ><v-btn variant="text" @click="open = false">Cancel</v-btn>
        </div>
      </template>
      <template v-else>
        <v-text-field
          v-model="search"
          v-focus
          label="Company name or domain"
          autocomplete="off"
          @keydown.enter="choices[0] && choose(choices[0].id)"
        />
        <ul class="found">
          <li v-for="one in choices" :key="one.id">
            <button class="link" @click="choose(one.id)">{{ one.name }}</button>
            <span class="dim">{{ one.people }} {{ one.people === 1 ? 'person' : 'people' }}</span>
          </li>
        </ul>
        <p v-if="lastError" class="clay small" role="alert">{{ lastError }}</p>
        <p v-else-if="answer && !choices.length" class="dim small">No other company by that name.</p>
        <div class="row mt-3"><v-btn variant="text" @click="open = false">Cancel</v-btn></div>
      </template>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.found {
  list-style: none;
  padding: 0;
}
.found li {
  padding: 4px 0;
}
</style>

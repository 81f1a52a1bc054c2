<script setup lang="ts">
import { shallowRef, watch } from 'vue'
import { formSubmissions, type Form, type Submission } from '#shared/api/settings/forms'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** What was sent with a form, latest first, each with whom it is of. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ form: Form }>()
const times = useTimes()
const submissions = shallowRef<Submission[] | null>(null)
watch(
  () => open.value && props.form.id,
  async (id) => {
    if (!id) return
    submissions.value = null
    submissions.value = (await call(formSubmissions, { params: { id } }).catch(useNotices().error))?.submissions ?? []
  },
  { immediate: true },
)
</script>

<template>
  <v-dialog v-model="open" max-width="720" aria-label="Submissions" scrollable>
    <v-card class="pa-5">
      <h2>{{ form.name }}: submissions</h2>
      <p v-if="submissions && !submissions.length" class="dim mt-2">Nobody has sent it yet.</p>
      <ol>
        <li v-for="one in submissions ?? []" :key="one.id">
          <span class="num dim small">{{ times.moment(one.at) }}</span>
          <div>
            <NuxtLink :to="`/prospects/${one.person.id}`">{{ one.person.name }}</NuxtLink>
            <span v-if="one.isNew" class="chip pine">new</span>
            <dl v-if="one.answers.length">
              <template v-for="answer in one.answers" :key="answer.label">
                <dt class="dim">{{ answer.label }}</dt>
                <dd>{{ answer.value }}</dd>
              </template>
            </dl>
            <p v-else class="dim small">Erased on request.</p>
          </div>
        </li>
      </ol>
      <v-btn variant="text" class="mt-3 close" @click="open = false">Close</v-btn>
    </v-card>
  </v-dialog>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 8px;
  padding: 8px 0;
  border-top: 1px solid var(--line);
  align-items: baseline;
}
dl {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 0 12px;
  margin: 4px 0 0;
}
dd {
  margin: 0;
  white-space: pre-line;
  overflow-wrap: anywhere;
}
.chip {
  margin-left: 6px;
}
.close {
  justify-self: start;
  align-self: start;
}
@media (max-width: 600px) {
  li {
    grid-template-columns: 1fr;
  }
}
</style>

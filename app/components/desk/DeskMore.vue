<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Brief } from '#shared/api/desk/desk'
import { fieldInDialog, useTypeAhead } from '~/composables/typeAhead'

/** What can be done from the call beside logging it: an email, a text, a call or to-do for later, another person. */
const props = defineProps<{ brief: Brief }>()
const emit = defineEmits<{ changed: [] }>()
type What = 'email' | 'text' | 'plan' | 'person'
const shown = ref<What | null>(null)
const person = computed(() => props.brief.prospect)
const mayText = computed(() => props.brief.textGateway && person.value.phones.length > 0)
const mayEmail = computed(() => person.value.emails.length > 0 && !person.value.stopEmail)
/** For the next prospect nothing is open. */
watch(
  () => person.value.id,
  () => {
    shown.value = null
  },
)
function open(what: What): void {
  if ((what === 'text' && !mayText.value) || (what === 'email' && !mayEmail.value)) return
  shown.value = what
  typeAhead()
}
/** What is typed until the dialog has the cursor goes into it. */
const typeAhead = useTypeAhead(fieldInDialog, () => shown.value)
const isShown = (what: What) =>
  computed({
    get: () => shown.value === what,
    set: (on: boolean) => {
      shown.value = on ? what : null
    },
  })
const [planning, adding] = [isShown('plan'), isShown('person')]
function done(): void {
  shown.value = null
  emit('changed')
}
defineExpose({ open })
</script>

<template>
  <p class="more small">
    <button v-if="mayEmail" class="link" @click="open('email')">Email <kbd>E</kbd></button>
    <button v-if="mayText" class="link" @click="open('text')">Text <kbd>T</kbd></button>
    <button class="link" @click="open('plan')">Plan <kbd>O</kbd></button>
    <button class="link" aria-label="Add a colleague" @click="open('person')">Colleague <kbd>A</kbd></button>
  </p>
  <v-dialog
    :model-value="shown === 'email' || shown === 'text'"
    max-width="640"
    scrollable
    :aria-label="shown === 'text' ? 'Text' : 'Email'"
    @update:model-value="shown = null"
  >
    <v-card v-if="shown === 'email' || shown === 'text'" class="pa-5">
      <h2 class="mb-2">{{ shown === 'text' ? 'Text' : 'Email' }} to {{ person.name }}</h2>
      <LazyMailWriter v-if="shown === 'email'" :brief="brief" begin @sent="done" />
      <LazyTextWriter v-else :brief="brief" :task-id="null" begin @sent="done" />
    </v-card>
  </v-dialog>
  <LazyPlanDialog
    v-if="planning"
    v-model="planning"
    :person="person"
    :has-phone="person.phones.length > 0"
    @done="emit('changed')"
  />
  <LazyAddPerson v-if="adding" v-model="adding" :company="person.company?.name ?? ''" />
</template>

<style scoped>
.more {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  margin-bottom: 10px;
}
</style>

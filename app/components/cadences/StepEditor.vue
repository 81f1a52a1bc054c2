<script setup lang="ts">
import { computed, ref } from 'vue'
import { STEP_KINDS, capitalized } from '#core/enumerations'
import { textLength, textLengthInWords } from '#core/text/textMessage'
import { mergeFieldsInWords } from '#core/text/mergeFields'
import type { StepDraft } from '#shared/api/cadences/cadences'

/** One step of a cadence: its name, its wait, and what it says; for an email, as one reader gets it too. */
const props = defineProps<{
  step: StepDraft
  index: number
  /** Whether it can be moved on its way. */
  canMove: { up: boolean; down: boolean }
  /** What the step before is called; empty for the first. */
  previous: string
  /** How many are at the step. */
  people: number
  editable: boolean
  planned:
    | { subject: string; body: string; html: string | null; version: string | null; missing: readonly string[] }
    | undefined
  /** For whom it is previewed. */
  who: string | null | undefined
  /** The ways that steps are on. */
  usedWays: ReadonlySet<string | null>
  errorAt: (field: string) => string | undefined
}>()
const emit = defineEmits<{
  change: [changed: Partial<StepDraft>]
  shift: [by: 1 | -1]
  copy: [toEnd: boolean]
  remove: []
}>()
const frame = ref<'edit' | 'preview'>('edit')
const field = <K extends 'name' | 'body' | 'link' | 'review' | 'wait' | 'requiresPrevious'>(key: K) =>
  computed({ get: () => props.step[key], set: (value) => emit('change', { [key]: value }) })
const [name, body, link] = [field('name'), field('body'), field('link')]
const [wait, review, requiresPrevious] = [field('wait'), field('review'), field('requiresPrevious')]
/** What the words of a step of each kind are called. */
const BODY: Record<StepDraft['kind'], string> = {
  email: 'Text',
  call: 'Script',
  text: 'Text to send',
  social: 'What to post or write',
  task: 'What to do',
  meeting: 'What to talk about',
  branch: '',
}
const waitLabel = computed(() => {
  if (props.index === 0) return 'Wait after enrolling'
  return props.step.kind === 'branch' ? 'Wait at most, after the step before' : 'Wait after the step before'
})
const removing = ref(false)
/** Asks first where people are at the step: they go on to the next one. */
function askRemove(): void {
  if (props.people) removing.value = true
  else emit('remove')
}
function remove(): void {
  removing.value = false
  emit('remove')
}
</script>

<template>
  <section class="panel edit">
    <div class="spread">
      <h2>{{ index + 1 }}. {{ capitalized(STEP_KINDS[step.kind]) }}</h2>
      <div v-if="editable" class="row">
        <v-btn size="small" variant="text" :disabled="!canMove.up" @click="emit('shift', -1)">Move up</v-btn
        ><v-btn size="small" variant="text" :disabled="!canMove.down" @click="emit('shift', 1)">Move down</v-btn
        ><v-menu
          ><template #activator="{ props: act }"><v-btn v-bind="act" size="small" variant="text">Copy</v-btn></template
          ><v-list
            ><v-list-item title="This step" @click="emit('copy', false)" /><v-list-item
              title="From here to the end"
              @click="emit('copy', true)" /></v-list></v-menu
        ><v-btn size="small" variant="text" color="error" @click="askRemove">Delete</v-btn>
      </div>
    </div>
    <v-text-field v-model="name" label="Name" maxlength="200" />
    <WaitField v-model="wait" :label="waitLabel" :error-message="errorAt('wait.amount') ?? errorAt('wait')" />
    <p v-if="index > 0 && wait.amount === 0 && step.kind === 'call'" class="dim small">
      The same day, as long as calling hours last there; otherwise when they open next.
    </p>
    <CheckBox
      v-if="previous && step.kind !== 'branch'"
      v-model="requiresPrevious"
      :label="`Only if “${previous}” was done`"
    />
    <template v-if="step.kind === 'email'">
      <div class="row tabs">
        <button class="plain" :class="{ on: frame === 'edit' }" @click="frame = 'edit'">Write</button
        ><button class="plain" :class="{ on: frame === 'preview' }" @click="frame = 'preview'">
          Preview{{ who ? ` for ${who}` : '' }}
        </button>
      </div>
      <StepEmail
        v-if="frame === 'edit'"
        :key="step.id"
        :step="step"
        :previous="previous"
        :editable="editable"
        :error-at="errorAt"
        @change="emit('change', $event)"
      />
      <template v-else-if="planned">
        <p v-if="planned.version" class="dim small">{{ who }} gets version {{ planned.version }}.</p>
        <EmailPreview :email="planned" />
      </template>
      <CheckBox v-model="review" label="Wait on the Desk until the rep has looked at it and sends it" />
      <p v-if="planned?.missing.length && !review" class="notice">
        For {{ who }} there is no {{ mergeFieldsInWords(planned!.missing) }}, and no fallback: this email would be held.
      </p>
    </template>
    <BranchEditor
      v-else-if="step.kind === 'branch'"
      :key="step.id"
      :step="step"
      :used-ways="usedWays"
      :error-at="errorAt"
      @change="emit('change', $event)"
    />
    <template v-else>
      <LazyTemplateText
        :key="step.id"
        v-model="body"
        lines
        :label="BODY[step.kind]"
        :longest="20000"
        :readonly="!editable"
        :error-message="errorAt('body')"
      />
      <p v-if="step.kind === 'text'" class="dim small num">{{ textLengthInWords(textLength(body)) }}</p>
      <v-text-field
        v-if="step.kind === 'social'"
        v-model="link"
        label="Link to the page (optional)"
        placeholder="https://"
        maxlength="2000"
        :error-messages="errorAt('link')"
      />
    </template>
    <v-dialog v-model="removing" max-width="420" aria-label="Delete the step">
      <v-card class="pa-5"
        ><h2>Delete “{{ step.name }}”</h2>
        <p class="my-3">
          {{ people.toLocaleString('en-US') }}
          {{ people === 1 ? 'prospect is' : 'prospects are' }} at this step. Once you save, they go on to the step after
          it; at the last step they finish the cadence.
        </p>
        <FormFooter action="Delete" danger @act="remove" @cancel="removing = false"
      /></v-card>
    </v-dialog>
  </section>
</template>

<style scoped>
.edit {
  display: grid;
  gap: 12px;
  align-content: start;
  align-self: start;
}
.tabs {
  gap: 18px;
  border-bottom: 1px solid var(--line);
}
.tabs button {
  padding: 4px 0;
  color: var(--dim);
}
.tabs .on {
  color: var(--ink);
  box-shadow: inset 0 -2px var(--amber);
}
@media (max-width: 760px) {
  .spread,
  .row {
    flex-wrap: wrap;
  }
}
</style>

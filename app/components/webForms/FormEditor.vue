<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { FORM_ACTIONS, type Action } from '#core/actions/registry'
import { ALWAYS_ASKED, FORM_FIELDS, isUsual, type FormField } from '#core/forms/fields'
import { addForm, editForm, type Form } from '#shared/api/settings/forms'
import { listFields, type CustomField } from '#shared/api/settings/fields'
import { listSources } from '#shared/api/settings/settings'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'

/** Makes or changes a form: what it says and asks, and what is done with who sends it. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ form: Form | null }>()
const emit = defineEmits<{ done: [] }>()
const notices = useNotices()
const { formError, busy, send } = useSending()
const own = shallowRef<CustomField[]>([])
const sources = shallowRef<string[]>([])
const archiving = ref(false)
const ask = (key: keyof typeof FORM_FIELDS, required = false): FormField => ({ key, label: FORM_FIELDS[key], required })
const blank = () => ({
  name: '',
  heading: 'Ask us anything',
  intro: '',
  button: 'Send',
  thanks: 'Thank you. We will be in touch shortly.',
  nextUrl: '',
  fields: [ask('name', true), ask('email', true), ask('company'), ask('phone'), ask('message')],
  consent: '',
  source: null as string | null,
  actions: [
    {
      type: 'makeTask',
      task: 'task',
      title: 'Answer: they sent the form',
      wait: { amount: 0, unit: 'hours' },
      whose: 'owner',
    },
  ] as Action[],
})
const draft = ref(blank())
watch(
  open,
  async (now) => {
    if (!now) return
    formError.value = null
    archiving.value = false
    const { form } = props
    draft.value = { ...blank(), ...(form && structuredClone({ ...form, nextUrl: form.nextUrl ?? '' })) }
    const [fields, known] = await Promise.all([
      call(listFields).then((answer) => answer.fields, notices.error),
      call(listSources).then((answer) => answer.sources, notices.error),
    ])
    own.value = fields?.filter((field) => field.of === 'prospect') ?? []
    sources.value = known?.map(({ name }) => name) ?? []
  },
  { immediate: true },
)
const nameOf = (key: string) =>
  isUsual(key) ? FORM_FIELDS[key] : (own.value.find(({ id }) => id === key)?.name ?? 'A field that was deleted')
const isFixed = (key: string) => ALWAYS_ASKED.includes(key)
/** What could be asked besides. */
const addable = computed(() =>
  [
    ...Object.entries(FORM_FIELDS).map(([value, title]) => ({ value, title })),
    ...own.value.map(({ id, name }) => ({ value: id, title: name })),
  ].filter(({ value }) => !draft.value.fields.some(({ key }) => key === value)),
)
function add(key: string): void {
  draft.value.fields.push({ key, label: nameOf(key), required: false })
}
function move(index: number, by: number): void {
  if (index + by < 0 || index + by >= draft.value.fields.length) return
  draft.value.fields.splice(index + by, 0, ...draft.value.fields.splice(index, 1))
}
const save = (archived = false) =>
  send(async () => {
    const body = {
      name: draft.value.name,
      heading: draft.value.heading,
      intro: draft.value.intro,
      button: draft.value.button,
      thanks: draft.value.thanks,
      nextUrl: draft.value.nextUrl.trim() || null,
      fields: draft.value.fields,
      consent: draft.value.consent,
      source: draft.value.source?.trim() || null,
      actions: draft.value.actions,
    }
    if (props.form) {
      await call(editForm, { params: { id: props.form.id }, body: { ...body, version: props.form.version, archived } })
    } else await call(addForm, { body })
    notices.say(
      archived ? `“${draft.value.name}” is archived. Its link says that it is closed.` : `“${draft.value.name}” saved.`,
    )
    open.value = false
    emit('done')
  })
</script>

<template>
  <v-dialog v-model="open" max-width="880" aria-label="Form" scrollable>
    <v-card class="pa-5">
      <form class="form" @submit.prevent="save()">
        <h2>{{ form ? 'Edit form' : 'New form' }}</h2>
        <div class="pair">
          <v-text-field
            v-model="draft.name"
            v-focus
            label="Form name"
            placeholder="Ask for a demo"
            maxlength="100"
            :error-messages="formError?.at('name')"
          />
          <v-combobox
            v-model="draft.source"
            :items="sources"
            label="Source of people it brings"
            placeholder="none"
            persistent-placeholder
            clearable
          />
        </div>
        <h3>What it says</h3>
        <v-text-field
          v-model="draft.heading"
          label="Heading"
          maxlength="200"
          :error-messages="formError?.at('heading')"
        />
        <v-textarea v-model="draft.intro" label="Text above the questions" rows="2" auto-grow maxlength="2000" />
        <div class="pair">
          <v-text-field
            v-model="draft.button"
            label="Button"
            maxlength="40"
            :error-messages="formError?.at('button')"
          />
          <v-text-field
            v-model="draft.nextUrl"
            label="Afterwards, go on to"
            placeholder="https://"
            :error-messages="formError?.at('nextUrl')"
          />
        </div>
        <v-text-field
          v-model="draft.thanks"
          label="What is shown once it was sent"
          maxlength="1000"
          :error-messages="formError?.at('thanks')"
        />
        <h3>What it asks</h3>
        <p v-if="formError?.at('fields')" class="clay small" role="alert">{{ formError.at('fields') }}</p>
        <ol class="fields">
          <li v-for="(field, index) in draft.fields" :key="field.key">
            <span class="dim">{{ nameOf(field.key) }}</span>
            <v-text-field
              v-model="field.label"
              :aria-label="`Label of ${nameOf(field.key)}`"
              maxlength="120"
              :error-messages="formError?.at(`fields.${index}.label`) || formError?.at(`fields.${index}`)"
            />
            <label class="small"
              ><input v-model="field.required" type="checkbox" :disabled="isFixed(field.key)" /> required</label
            >
            <span class="links">
              <button type="button" class="link small" :aria-label="`Move ${field.label} up`" @click="move(index, -1)">
                Up
              </button>
              <button type="button" class="link small" :aria-label="`Move ${field.label} down`" @click="move(index, 1)">
                Down
              </button>
              <button
                v-if="!isFixed(field.key)"
                type="button"
                class="link small"
                :aria-label="`Remove ${field.label}`"
                @click="draft.fields.splice(index, 1)"
              >
                Remove
              </button>
            </span>
          </li>
        </ol>
        <v-select
          v-if="addable.length"
          :model-value="null"
          :items="addable"
          label="Add a question"
          class="add"
          @update:model-value="$event && add($event)"
        />
        <v-text-field
          v-model="draft.consent"
          label="Text of a box to tick for marketing emails"
          placeholder="none: marketing emails are as they were"
          persistent-placeholder
          maxlength="500"
        />
        <ActionList
          v-model="draft.actions"
          title="What is done with who sends it"
          none="Nothing but a follow-up: they have a next step like everyone."
          field="actions"
          :form-error="formError"
          :also="FORM_ACTIONS"
        />
        <FormFooter
          :action="form ? 'Save' : 'Add form'"
          :busy="busy"
          :form-error="formError"
          at-fields
          @cancel="open = false"
        />
        <p v-if="form">
          <button v-if="!archiving" type="button" class="link small" @click="archiving = true">
            Archive this form
          </button>
          <v-btn v-else color="error" size="small" @click="save(true)"
            >Archive “{{ form.name }}”: its link closes</v-btn
          >
        </p>
      </form>
      <RecordChanges v-if="form" :id="form.id" :key="form.version" of="form" title="Changes of the form" :shown="3" />
    </v-card>
  </v-dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.fields {
  list-style: none;
  margin: 0;
  padding: 0;
}
.fields li {
  display: grid;
  grid-template-columns: 130px 1fr auto 132px;
  gap: 12px;
  align-items: center;
  padding: 4px 0;
  border-top: 1px solid var(--line);
}
.links {
  display: flex;
  gap: 8px;
}
.add {
  max-width: 260px;
}
@media (max-width: 600px) {
  .pair {
    grid-template-columns: 1fr;
  }
  .fields li {
    grid-template-columns: 1fr auto;
  }
}
</style>

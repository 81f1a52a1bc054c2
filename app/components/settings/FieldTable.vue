<script setup lang="ts">
import { reactive, ref, shallowRef } from 'vue'
import { CUSTOM_FIELD_KINDS, CUSTOM_FIELD_OWNERS, choicesOf } from '#core/enumerations'
import { addField, editField, listFields, removeField, type CustomField } from '#shared/api/settings/fields'
import { ApiError, call } from '~/api/call'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** The custom fields of people, companies and deals. */
const session = useSession()
const notices = useNotices()
const fields = shallowRef<CustomField[]>([])
const open = ref(false)
const edited = shallowRef<CustomField | null>(null)
const removing = ref<string | null>(null)
const HOLDERS = { prospect: 'people', company: 'companies', deal: 'deals' }
const given = reactive({
  of: 'prospect' as CustomField['of'],
  name: '',
  kind: 'text' as CustomField['kind'],
  choices: '',
  required: false,
  indexed: false,
  defaultValue: '',
})
const formError = ref<ApiError | null>(null)

async function read(): Promise<void> {
  fields.value = (await call(listFields)).fields
}
const asText = (value: unknown) => {
  if (value === null || value === undefined) return ''
  if (Array.isArray(value)) return value.join('; ')
  if (value === true) return 'yes'
  return value === false ? 'no' : String(value)
}
function start(field: CustomField | null): void {
  edited.value = field
  formError.value = null
  Object.assign(
    given,
    field
      ? { ...field, choices: field.choices.join('\n'), defaultValue: asText(field.defaultValue) }
      : { of: 'prospect', name: '', kind: 'text', choices: '', required: false, indexed: false, defaultValue: '' },
  )
  open.value = true
}
async function save(): Promise<void> {
  const choices =
    given.kind === 'choice' || given.kind === 'choices'
      ? given.choices
          .split('\n')
          .map((line) => line.trim())
          .filter(Boolean)
      : []
  const body = {
    name: given.name,
    choices,
    required: given.required,
    indexed: given.indexed && given.of !== 'deal',
    defaultValue: given.defaultValue || null,
  }
  try {
    if (edited.value) {
      await call(editField, { params: { id: edited.value.id }, body: { version: edited.value.version, ...body } })
    } else await call(addField, { body: { of: given.of, kind: given.kind, ...body } })
    open.value = false
    notices.say(`“${given.name}” saved: now in filters, columns and on ${HOLDERS[given.of]}.`)
    await read()
  } catch (error) {
    if (error instanceof ApiError) formError.value = error
    else throw error
  }
}
async function remove(field: CustomField): Promise<void> {
  try {
    const { values } = await call(removeField, { params: { id: field.id } })
    notices.say(`“${field.name}” deleted with ${values} ${values === 1 ? 'value' : 'values'}.`)
    removing.value = null
    await read()
  } catch (error) {
    notices.error(error)
  }
}
// The settings wait until all their tables are there, so that nothing moves.
await read().catch(notices.error)
</script>

<template>
  <section>
    <div class="spread">
      <h2>Custom fields</h2>
      <v-btn v-if="session.manages" size="small" variant="outlined" @click="start(null)">Add a field</v-btn>
    </div>
    <p class="dim mb-2">Fields your team adds to prospects, companies and deals.</p>
    <table class="sheet">
      <tbody>
        <tr v-for="field in fields" :key="field.id">
          <td>
            <b>{{ field.name }}</b><br /><span class="dim small"
              >of a {{ CUSTOM_FIELD_OWNERS[field.of] }}{{ field.required ? ', required' : ''
              }}{{ field.indexed ? ', indexed' : '' }}</span
            >
          </td>
          <td>
            {{ CUSTOM_FIELD_KINDS[field.kind]
            }}<span v-if="field.choices.length" class="dim">: {{ field.choices.join(', ') }}</span
            ><span v-if="asText(field.defaultValue)" class="dim small"
              ><br />default {{ asText(field.defaultValue) }}</span
            >
          </td>
          <td v-if="session.manages" class="acts">
            <template v-if="removing === field.id"
              ><v-btn size="small" color="error" @click="remove(field)">Remove it with all its values</v-btn>
              <button class="link small" @click="removing = null">Cancel</button></template
            ><template v-else
              ><button class="link small" :aria-label="`Edit ${field.name}`" @click="start(field)">Edit</button>
              <button class="link small" :aria-label="`Remove ${field.name}`" @click="removing = field.id">
                Remove
              </button></template
            >
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="!fields.length" class="dim">There are none yet.</p>
    <v-dialog v-model="open" max-width="480" aria-label="Custom field">
      <v-card class="pa-5">
        <form class="stack" @submit.prevent="save">
          <h2>{{ edited ? 'Edit custom field' : 'New custom field' }}</h2>
          <v-text-field
            v-model="given.name"
            v-focus
            label="Name"
            maxlength="60"
            :error-messages="formError?.at('name')"
          />
          <div v-if="!edited" class="pair">
            <v-select
              v-model="given.of"
              label="Belongs to"
              :items="[
                { value: 'prospect', title: 'People' },
                { value: 'company', title: 'Companies' },
                { value: 'deal', title: 'Deals' },
              ]"
            /><v-select v-model="given.kind" label="Type" :items="choicesOf(CUSTOM_FIELD_KINDS)" />
          </div>
          <v-textarea
            v-if="given.kind === 'choice' || given.kind === 'choices'"
            v-model="given.choices"
            label="Choices, one per line"
            rows="4"
            :error-messages="formError?.at('choices')"
          />
          <v-text-field
            v-model="given.defaultValue"
            label="Default value (optional)"
            :error-messages="formError?.at('defaultValue')"
          />
          <CheckBox v-model="given.required" label="Required: once filled, it cannot be cleared" />
          <CheckBox v-if="given.of !== 'deal'" v-model="given.indexed" label="Indexed: fast filters in large lists" />
          <FormFooter action="Save" :form-error="formError" at-fields @cancel="open = false" />
        </form>
      </v-card>
    </v-dialog>
  </section>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
</style>

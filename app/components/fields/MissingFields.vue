<script setup lang="ts">
import { computed, onMounted, reactive, ref } from 'vue'
import { listFields, type CustomField } from '#shared/api/settings/fields'
import { editCompany, getCompany } from '#shared/api/companies'
import { editProspect, type Prospect } from '#shared/api/prospects'
import { call, messageOf } from '~/api/call'

/** What a gate wants to be filled in, asked for in place; `save` keeps it and says whether it could. */
const props = defineProps<{
  person: Pick<Prospect, 'id' | 'version' | 'company'>
  missing: readonly { key: string; label: string }[]
}>()
const own = ref<CustomField[]>([])
const given = reactive<Record<string, string | string[]>>({})
const formError = ref('')
onMounted(async () => {
  if (props.missing.some((one) => one.key.includes('custom:'))) {
    own.value = await call(listFields).then(
      ({ fields }) => fields,
      () => [],
    )
  }
})
const MODES: Record<string, 'tel' | 'email' | undefined> = { phone: 'tel', email: 'email' }
const idOf = (key: string) => key.slice(key.indexOf('custom:') + 'custom:'.length)
const fields = computed(() =>
  props.missing.map((one) => {
    const field = one.key.includes('custom:') ? own.value.find((field) => field.id === idOf(one.key)) : undefined
    const options = field?.kind === 'yesNo' ? ['yes', 'no'] : (field?.choices ?? [])
    const isNumber = field?.kind === 'number' || field?.kind === 'money'
    const mode = isNumber ? ('decimal' as const) : (MODES[one.key] ?? ('text' as const))
    return {
      ...one,
      label: `${one.label.charAt(0).toUpperCase()}${one.label.slice(1)}`,
      options,
      mode,
      type: field?.kind === 'date' ? 'date' : 'text',
      many: field?.kind === 'choices',
    }
  }),
)
const isEmpty = (key: string) => (Array.isArray(given[key]) ? !given[key].length : !given[key]?.trim())

/** A change of the person or of their company with everything that was filled in of it. */
function bodyOf(keys: readonly string[]): Record<string, unknown> {
  const body: Record<string, unknown> = {}
  const custom: Record<string, unknown> = {}
  for (const key of keys) {
    if (key.includes('custom:')) custom[idOf(key)] = given[key]
    else if (key === 'phone') body.addPhone = given[key]
    else if (key === 'email') body.addEmail = given[key]
    else body[key] = key === 'country' ? String(given[key]).trim().toUpperCase() : given[key]
  }
  return { ...body, ...(Object.keys(custom).length && { custom }) }
}
async function save(): Promise<boolean> {
  const empty = props.missing.find((one) => isEmpty(one.key))
  formError.value = empty ? `Fill in “${empty.label}”` : ''
  if (empty) return false
  const keys = props.missing.map((one) => one.key)
  const [ofCompany, ofPerson] = [
    keys.filter((key) => key.startsWith('company:')),
    keys.filter((key) => !key.startsWith('company:')),
  ]
  const { company } = props.person
  try {
    if (ofPerson.length) {
      await call(editProspect, {
        params: { id: props.person.id },
        body: { version: props.person.version, ...bodyOf(ofPerson) },
      })
    }
    if (ofCompany.length && company) {
      const { version } = await call(getCompany, { params: { id: company.id } })
      await call(editCompany, { params: { id: company.id }, body: { version, ...bodyOf(ofCompany) } })
    }
    return true
  } catch (error) {
    formError.value = messageOf(error, 'This could not be saved')
    return false
  }
}
defineExpose({ save })
</script>

<template>
  <div class="missing">
    <label v-for="field in fields" :key="field.key"
      >{{ field.label }}
      <select v-if="field.options.length" v-model="given[field.key]" :multiple="field.many">
        <option v-for="option in field.options" :key="option">{{ option }}</option>
      </select>
      <input v-else v-model="given[field.key]" :type="field.type" :inputmode="field.mode" maxlength="2000" />
    </label>
    <p v-if="formError" class="wrong" role="alert">{{ formError }}</p>
  </div>
</template>

<style scoped>
.missing {
  display: grid;
  gap: 8px;
}
label {
  display: grid;
  font-size: 12.5px;
  color: var(--dim);
  min-width: 0;
}
input,
select {
  font-size: 14px;
  min-width: 0;
  width: 100%;
}
.wrong {
  color: var(--clay-deep);
  font-size: 12.5px;
}
</style>

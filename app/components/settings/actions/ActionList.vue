<script setup lang="ts">
import { onMounted } from 'vue'
import { actionInWords, type Action, type ActionType } from '#core/actions/registry'
import type { ApiError } from '~/api/call'
import { useActionWorld } from '~/components/settings/actions/actionWorld'
import { blankAction } from '~/components/settings/actions/actionForms'
import { useNotices } from '~/stores/notices'

/** Actions that no call is needed for, in order: after a cadence's last step, or when a form is sent. */
const actions = defineModel<Action[]>({ required: true })
const props = withDefaults(
  defineProps<{
    title: string
    /** What is said where there are none. */ none: string
    /** The field of the request, as errors name it. */ field: string
    formError: ApiError | null
    disabled?: boolean
    /** Actions that cannot wait, and can be done here all the same. */ also?: readonly ActionType[]
  }>(),
  { also: () => [] },
)
const { names, fields, read } = useActionWorld()
onMounted(() => read().catch(useNotices().error))
const errorsOf = (index: number) =>
  (props.formError?.problems ?? [])
    .filter(({ field }) => `${field}.`.startsWith(`${props.field}.${index}.`))
    .map(({ message }) => message)
const set = (index: number, action: Action) => {
  actions.value = actions.value.map((one, place) => (place === index ? action : one))
}
const without = (index: number) => actions.value.filter((_, place) => place !== index)
function move(index: number, by: number): void {
  const [one] = actions.value.slice(index, index + 1)
  if (index + by >= 0 && one) actions.value = without(index).toSpliced(index + by, 0, one)
}
</script>

<template>
  <section v-if="names" :aria-label="title">
    <h2>{{ title }}</h2>
    <p class="dim small">
      {{ actions.length ? `${actions.map((action) => actionInWords(action, names!)).join('. ')}.` : none }}
    </p>
    <template v-if="!disabled">
      <ol v-if="actions.length">
        <OutcomeActionRow
          v-for="(action, index) in actions"
          :key="index"
          :model-value="action"
          :names="names"
          :fields="fields"
          :form-error="errorsOf(index)"
          :also="also"
          without-call
          @update:model-value="set(index, $event)"
          @remove="actions = without(index)"
          @up="move(index, -1)"
          @down="move(index, 1)"
        />
      </ol>
      <v-btn size="small" variant="outlined" class="mt-2" @click="actions = [...actions, blankAction('changeTag')]"
        >Add action</v-btn
      >
    </template>
  </section>
</template>

<style scoped>
ol {
  list-style: none;
  padding: 0;
  margin: 6px 0 0;
}
</style>

<script setup lang="ts">
import { computed, onMounted, shallowRef } from 'vue'
import { COLLEAGUE_RULES, type EntryRules } from '#core/cadence/entry'
import { ME, type Field } from '#core/filter/fields'
import { normalize, type Filter } from '#core/filter/filter'
import { filterFields } from '#shared/api/lists'
import { call, type ApiError } from '~/api/call'
import { useNotices } from '~/stores/notices'

/** Who may enter a cadence: again or once, beside colleagues, by a filter, on which days, how many a day. */
const entry = defineModel<EntryRules>({ required: true })
const props = defineProps<{ formError: ApiError | null }>()
const at = (field: string) => props.formError?.at(`entry.${field}`)
const change = (changed: Partial<EntryRules>) => {
  entry.value = { ...entry.value, ...changed }
}
const fields = shallowRef<readonly Field[]>([])
onMounted(() =>
  call(filterFields).then((answer) => {
    // Nobody looks when someone enters: there is no "me".
    fields.value = answer.fields.map((field) => ({ ...field, choices: field.choices?.filter(({ id }) => id !== ME) }))
  }, useNotices().error),
)
const AGAIN = [
  { value: 'always', title: 'Any number of times' },
  { value: 'never', title: 'Once' },
  { value: 'days', title: 'Again, a number of days after they left' },
]
const again = computed(() => (typeof entry.value.again === 'number' ? 'days' : entry.value.again))
const setAgain = (value: string) => change({ again: value === 'days' ? 90 : (value as 'always' | 'never') })
const colleagues = Object.entries(COLLEAGUE_RULES).map(([value, title]) => ({
  value,
  title: title.charAt(0).toUpperCase() + title.slice(1),
}))
const filtered = computed({
  get: () => entry.value.where !== null,
  set: (on) => change({ where: on ? (normalize({ all: [] }) as Filter) : null }),
})
/** A number that was typed; null where there is none. */
const numberOf = (typed: unknown) => (typed === '' || typed === null || typed === undefined ? null : Number(typed))
</script>

<template>
  <div class="entry">
    <div class="row">
      <v-select :model-value="again" :items="AGAIN" label="How often the same person" @update:model-value="setAgain" />
      <v-text-field
        v-if="typeof entry.again === 'number'"
        :model-value="entry.again"
        type="number"
        min="1"
        max="3650"
        label="Days"
        class="short"
        :error-messages="at('again')"
        @update:model-value="change({ again: Number($event) })"
      />
    </div>
    <v-select
      :model-value="entry.colleagues"
      :items="colleagues"
      label="Colleagues"
      @update:model-value="change({ colleagues: $event })"
    />
    <div class="row">
      <v-text-field
        :model-value="entry.from"
        type="date"
        label="From (optional)"
        :error-messages="at('from')"
        @update:model-value="change({ from: $event || null })"
      /><v-text-field
        :model-value="entry.until"
        type="date"
        label="Until (optional)"
        :error-messages="at('until')"
        @update:model-value="change({ until: $event || null })"
      />
    </div>
    <v-text-field
      :model-value="entry.perDay"
      type="number"
      min="1"
      label="People who start a day, at most (optional)"
      placeholder="no limit"
      persistent-placeholder
      :error-messages="at('perDay')"
      @update:model-value="change({ perDay: numberOf($event) })"
    />
    <p v-if="entry.perDay" class="dim small">The rest wait in order, and start on the next business days.</p>
    <CheckBox v-model="filtered" label="Only people who fit a filter when they enter" />
    <FilterSentence
      v-if="entry.where && fields.length"
      :model-value="entry.where"
      :fields="fields"
      @update:model-value="change({ where: $event })"
    />
    <p v-if="at('where')" class="clay small" role="alert">{{ at('where') }}</p>
  </div>
</template>

<style scoped>
.entry {
  display: grid;
  gap: 10px;
}
.short {
  flex: 0 0 80px;
}
</style>

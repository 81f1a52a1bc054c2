<script setup lang="ts">
import { computed } from 'vue'
import type { z } from 'zod'
import {
  BLOCK_SORTS,
  BLOCK_TARGETS,
  CALL_PURPOSES,
  PAY_BASES,
  PHONE_KINDS,
  capitalized,
  choicesOf,
} from '#core/enumerations'
import type { editBlock } from '#shared/api/blocks/blocks'
import { listUsers } from '#shared/api/settings/settings'
import { call, type ApiError } from '~/api/call'
import { useOptions } from '~/composables/options'
import { useSession } from '~/stores/session'

/** What a call block is, but for who is in it. */
const block = defineModel<Omit<z.input<typeof editBlock.body>, 'version'>>({ required: true })
const props = defineProps<{ formError: ApiError | null }>()
const session = useSession()
const users = useOptions(() => call(listUsers).then((answer) => answer.users.filter((user) => user.active)))
const callers = computed(() => users.value.filter((user) => session.manages || user.id === session.user?.id))
const part = <K extends keyof typeof block.value>(key: K) =>
  computed({
    get: () => block.value[key],
    set: (value) => {
      block.value = { ...block.value, [key]: value }
    },
  })
const [name, purpose, script, callerIds] = [part('name'), part('purpose'), part('script'), part('callerIds')]
const [dueOn, target, targetOf, sort] = [part('dueOn'), part('target'), part('targetOf'), part('sort')]
const [phoneKinds, phoneStatuses, phoneTags] = [part('phoneKinds'), part('phoneStatuses'), part('phoneTags')]
const [payBasis, payRate] = [part('payBasis'), part('payRate')]
const STATUSES = [
  { value: 'correct', title: 'correct' },
  { value: 'unverified', title: 'unverified' },
]
const words = (choices: { value: string; title: string }[]) =>
  choices.map(({ value, title }) => ({ value, title: capitalized(title) }))
const at = (field: string) => props.formError?.at(field)
</script>

<template>
  <div class="form">
    <v-text-field v-model="name" label="Name" maxlength="120" :error-messages="at('name')" />
    <v-select v-model="purpose" :items="words(choicesOf(CALL_PURPOSES))" label="Purpose" />
    <v-select
      v-model="callerIds"
      :items="callers"
      item-value="id"
      item-title="name"
      multiple
      label="Callers"
      class="wide"
      :error-messages="at('callerIds')"
    />
    <LazyTemplateText
      :model-value="script ?? ''"
      class="wide"
      lines
      label="What to say"
      :longest="20000"
      :error-message="at('script')"
      @update:model-value="script = $event"
    />
    <v-text-field v-model="dueOn" type="date" label="Due (optional)" :error-messages="at('dueOn')" />
    <v-select v-model="sort" :items="words(choicesOf(BLOCK_SORTS))" label="Order" />
    <v-text-field
      v-model.number="target"
      type="number"
      min="1"
      label="Target (optional)"
      :error-messages="at('target')"
    />
    <v-select v-model="targetOf" :items="words(choicesOf(BLOCK_TARGETS))" label="Target of" />
    <v-select
      v-model="phoneKinds"
      :items="choicesOf(PHONE_KINDS)"
      multiple
      label="Kinds of numbers"
      placeholder="any"
      persistent-placeholder
    />
    <v-select
      v-model="phoneStatuses"
      :items="STATUSES"
      multiple
      label="Status of numbers"
      placeholder="any that may be called"
      persistent-placeholder
    />
    <v-combobox
      v-model="phoneTags"
      multiple
      chips
      closable-chips
      label="Tags of numbers, all of"
      placeholder="any"
      persistent-placeholder
      :error-messages="at('phoneTags')"
    />
    <template v-if="session.manages">
      <v-select v-model="payBasis" :items="words(choicesOf(PAY_BASES))" label="Pay per" />
      <v-text-field
        v-if="payBasis !== 'none'"
        v-model.number="payRate"
        type="number"
        min="0"
        step="0.01"
        label="Pay for each"
        :error-messages="at('payRate')"
      />
      <LinesFields v-model="block" :form-error="formError" />
    </template>
  </div>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px 20px;
}
.wide {
  grid-column: 1 / -1;
}
@media (max-width: 700px) {
  .form {
    grid-template-columns: 1fr;
  }
}
</style>

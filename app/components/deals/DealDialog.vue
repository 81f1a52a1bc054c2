<script setup lang="ts">
import { reactive, ref, watch } from 'vue'
import { listDealStages, openDeal } from '#shared/api/deals'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { readMoney } from '~/composables/money'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** Opens a deal with someone: worth, stage, when it is expected to close. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{ person: { id: string; name: string; company: { name: string } | null } }>()
const emit = defineEmits<{ done: [] }>()
const notices = useNotices()
const session = useSession()
const stages = ref<{ id: string; name: string; likelihood: number }[]>([])
const deal = reactive({ name: '', value: '', stageId: null as string | null, likelihood: 15, expectedClose: '' })
const { formError, busy, send } = useSending()
const valueError = ref('')
watch(
  open,
  async (now) => {
    if (!now) return
    Object.assign(deal, {
      name: props.person.company?.name ?? props.person.name,
      value: '',
      stageId: null,
      likelihood: 15,
      expectedClose: '',
    })
    valueError.value = ''
    formError.value = null
    stages.value = await call(listDealStages).then(
      (answer) => answer.stages,
      (error) => {
        notices.error(error)
        return []
      },
    )
    deal.stageId = stages.value[0]?.id ?? null
  },
  { immediate: true },
)
watch(
  () => deal.stageId,
  (id) => {
    deal.likelihood = stages.value.find((stage) => stage.id === id)?.likelihood ?? deal.likelihood
  },
)
const save = (another = false) =>
  send(async () => {
    const value = readMoney(deal.value)
    valueError.value = Number.isNaN(value) ? 'Enter an amount, like 1,250' : ''
    if (valueError.value) return
    const body = {
      id: newId(),
      name: deal.name,
      value,
      stageId: deal.stageId,
      likelihood: Number(deal.likelihood),
      expectedClose: deal.expectedClose || null,
      another,
    }
    const { summary: label } = await call(openDeal, { params: { id: props.person.id }, body })
    notices.say(label)
    open.value = false
    emit('done')
  })
</script>

<template>
  <v-dialog v-model="open" max-width="460" aria-label="Open a deal">
    <v-card class="pa-5">
      <form class="stack" @submit.prevent="save()">
        <h2>Open a deal with {{ person.name }}</h2>
        <v-text-field v-model="deal.name" label="Name" maxlength="300" :error-messages="formError?.at('name')" />
        <v-text-field
          v-model="deal.value"
          v-focus
          :label="`Value (${session.team.currency})`"
          inputmode="decimal"
          placeholder="1,250"
          :error-messages="valueError || formError?.at('value')"
        />
        <div class="pair">
          <v-select v-model="deal.stageId" :items="stages" item-value="id" item-title="name" label="Stage" />
          <v-text-field
            v-model="deal.likelihood"
            type="number"
            min="0"
            max="100"
            label="Likelihood, %"
            :error-messages="formError?.at('likelihood')"
          />
        </div>
        <v-text-field
          v-model="deal.expectedClose"
          type="date"
          label="Expected close"
          :error-messages="formError?.at('expectedClose')"
        />
        <div v-if="formError?.at('another')" class="notice" role="alert">
          {{ formError.message }}. <button type="button" class="link" @click="save(true)">Open another one</button>
        </div>
        <FormFooter action="Open deal" :busy="busy" :form-error="formError" at-fields @cancel="open = false" />
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
</style>

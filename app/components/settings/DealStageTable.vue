<script setup lang="ts">
import { computed, ref } from 'vue'
import { listDealStages, saveDealStages } from '#shared/api/deals'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** The stages of deals in their order, with how likely a deal in each is won; managers edit them all at once. */
interface Draft {
  id: string | null
  name: string
  likelihood: number
}
const session = useSession()
const notices = useNotices()
const saved = ref<Draft[]>([])
const stages = ref<Draft[]>([])
const { formError, busy, send } = useSending()
const changed = computed(() => JSON.stringify(saved.value) !== JSON.stringify(stages.value))
function take(read: readonly Draft[]): void {
  saved.value = read.map((stage) => ({ ...stage }))
  stages.value = read.map((stage) => ({ ...stage }))
}
take((await call(listDealStages)).stages)
function move(index: number, by: number): void {
  const now = [...stages.value]
  now.splice(index + by, 0, ...now.splice(index, 1))
  stages.value = now
}
const save = () =>
  send(async () => {
    take(
      (
        await call(saveDealStages, {
          body: { stages: stages.value.map((stage) => ({ ...stage, likelihood: Number(stage.likelihood) })) },
        })
      ).stages,
    )
    notices.say('Deal stages saved.')
  })
function discard(): void {
  take(saved.value)
  formError.value = null
}
</script>

<template>
  <section aria-label="Deal stages">
    <div class="spread">
      <h2>Deal stages</h2>
      <v-btn
        v-if="session.manages"
        size="small"
        variant="outlined"
        @click="stages.push({ id: null, name: '', likelihood: 50 })"
        >Add a deal stage</v-btn
      >
    </div>
    <p class="dim mb-2">
      How far along a deal is, and how likely it is to be won at that stage. A new deal takes the likelihood of its
      stage.
    </p>
    <form @submit.prevent="save">
      <table class="sheet">
        <thead>
          <tr>
            <th>Stage</th>
            <th>Likelihood, %</th>
            <th><span class="sr">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(stage, index) in stages" :key="stage.id ?? index">
            <td>
              <input
                v-model="stage.name"
                maxlength="60"
                required
                :readonly="!session.manages"
                :aria-label="`Name of stage ${index + 1}`"
              />
            </td>
            <td>
              <input
                v-model.number="stage.likelihood"
                type="number"
                min="0"
                max="100"
                required
                :readonly="!session.manages"
                :aria-label="`Likelihood of ${stage.name || `stage ${index + 1}`}`"
              />
            </td>
            <td class="acts">
              <template v-if="session.manages">
                <button
                  type="button"
                  class="link small"
                  :disabled="!index"
                  :aria-label="`Move ${stage.name} up`"
                  @click="move(index, -1)"
                >
                  Up
                </button>
                <button
                  type="button"
                  class="link small"
                  :disabled="index === stages.length - 1"
                  :aria-label="`Move ${stage.name} down`"
                  @click="move(index, 1)"
                >
                  Down
                </button>
                <button
                  type="button"
                  class="link small"
                  :disabled="stages.length === 1"
                  :aria-label="`Archive ${stage.name}`"
                  @click="stages.splice(index, 1)"
                >
                  Archive
                </button>
              </template>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="formError" class="notice clay mt-2" role="alert">{{ formError.message }}</p>
      <div v-if="changed" class="row mt-2">
        <v-btn type="submit" size="small" color="primary" :loading="busy">Save deal stages</v-btn
        ><v-btn size="small" variant="text" @click="discard()">Cancel</v-btn>
      </div>
    </form>
  </section>
</template>

<style scoped>
section {
  margin-bottom: 34px;
}
input {
  width: 100%;
}
input[type='number'] {
  width: 90px;
}
input[readonly] {
  border-color: transparent;
  background: none;
}
.acts {
  text-align: right;
  white-space: nowrap;
}
.acts .link {
  margin-left: 10px;
}
.acts .link:disabled {
  opacity: 0.35;
}
</style>

<script setup lang="ts">
import { onMounted, reactive, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { editStage, stages as listStages } from '#shared/api/stages'
import { ApiError, call } from '~/composables/api'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** The stages people climb through, and what a move into each demands: its gate. */
type Told = z.output<typeof listStages.response>
type Stage = Told['stages'][number]
const session = useSession()
const notices = useNotices()
const told = shallowRef<Told | null>(null)
const open = ref<string | null>(null)
const given = reactive({ name: '', attempts: '', reason: false, note: false, fields: [] as string[] })
const wrong = ref('')
const KINDS: Record<Stage['kind'], string> = { open: 'open: always with a next action', parked: 'parked: comes back later', won: 'won', closed: 'closed' }

async function read(): Promise<void> {
  told.value = await call(listStages)
}
onMounted(() => read().catch(notices.wrong))
const nameOf = (key: string) => told.value?.fields.find(field => field.key === key)?.says ?? key
function gateInWords({ attempts, reason, note, fields }: Stage['gate']): string {
  return [attempts && `${attempts} ${attempts === 1 ? 'attempt' : 'attempts'} before`, reason && 'a reason', note && 'a note', ...(fields ?? []).map(key => `${nameOf(key)} filled in`)].filter(Boolean).join(', ')
}
function edit(stage: Stage): void {
  open.value = stage.id
  wrong.value = ''
  Object.assign(given, { name: stage.name, attempts: String(stage.gate.attempts ?? ''), reason: stage.gate.reason ?? false, note: stage.gate.note ?? false, fields: [...stage.gate.fields ?? []] })
}
async function save(): Promise<void> {
  const attempts = Number(given.attempts || 0)
  try {
    await call(editStage, { params: { stage: open.value! }, body: { name: given.name, gate: { ...(attempts && { attempts }), ...(given.reason && { reason: true }), ...(given.note && { note: true }), ...(given.fields.length && { fields: given.fields }) } } })
    notices.say('Saved. It holds for every move from now on.')
    open.value = null
    await read()
  }
  catch (error) {
    wrong.value = error instanceof ApiError ? error.problems[0]?.message ?? error.message : 'It could not be saved'
  }
}
</script>

<template>
  <section v-if="told">
    <h2>Stages and gates</h2>
    <p class="dim mb-2">How far somebody is. A gate is what must be there before anybody, rep or outcome, can move a person in.</p>
    <div class="scroll"><table class="sheet"><thead><tr><th>Stage</th><th>Kind</th><th>Its gate</th><th /></tr></thead><tbody>
      <template v-for="stage in told.stages" :key="stage.id">
        <tr><td>{{ stage.name }}</td><td class="dim">{{ KINDS[stage.kind] }}</td><td>{{ gateInWords(stage.gate) || '' }}<span v-if="!gateInWords(stage.gate)" class="dim">none</span></td><td class="acts"><button v-if="session.manages" class="link small" :aria-label="`Change ${stage.name}`" @click="edit(stage)">Change</button></td></tr>
        <tr v-if="open === stage.id"><td colspan="4">
          <form class="form" @submit.prevent="save">
            <v-text-field v-model="given.name" label="Name" /><v-text-field v-model="given.attempts" label="Attempts before" inputmode="numeric" placeholder="none" />
            <div class="row wrap demands"><label><input v-model="given.reason" type="checkbox"> a reason</label><label><input v-model="given.note" type="checkbox"> a note</label></div>
            <fieldset class="row wrap demands"><legend class="dim">Filled in:</legend><label v-for="field in told.fields" :key="field.key"><input v-model="given.fields" type="checkbox" :value="field.key"> {{ field.says }}</label></fieldset>
            <p v-if="wrong" class="notice clay" role="alert">{{ wrong }}</p>
            <div class="row"><v-btn size="small" color="primary" type="submit">Save</v-btn><v-btn size="small" variant="text" @click="open = null">Cancel</v-btn></div>
          </form>
        </td></tr>
      </template>
    </tbody></table></div>
  </section>
</template>

<style scoped>
section { margin-bottom: 34px; } .scroll { overflow-x: auto; } .acts { text-align: right; white-space: nowrap; } .form { display: grid; grid-template-columns: 1fr 160px; gap: 10px 14px; padding: 8px 0; } .form > .demands, .form > .notice { grid-column: 1 / -1; } .demands { gap: 4px 16px; } .demands { flex-wrap: wrap; } .demands label { white-space: nowrap; display: inline-flex; gap: 6px; align-items: center; min-height: 24px; } fieldset { border: 0; padding: 0; } legend { float: left; margin-right: 12px; }
</style>

<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { addStage, archiveStage, editStage, orderStages, stages as listStages } from '#shared/api/settings/stages'
import { ApiError, call } from '~/api/call'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'
import type { StageDraft } from './stageDraft'

/** The stages people climb through, and what a move into each demands: its gate. */
type Stages = z.output<typeof listStages.response>
type Stage = Stages['stages'][number]
const session = useSession()
const notices = useNotices()
const response = shallowRef<Stages | null>(null)
const open = ref<string | null>(null)
const given = ref<StageDraft>({ kind: 'open', name: '', attempts: '', reason: false, note: false, fields: [] })
const formError = ref('')
const KINDS: Record<Stage['kind'], string> = {
  open: 'open: always has a next action',
  paused: 'paused: comes back later',
  won: 'won: a customer',
  closed: 'closed: nothing more is planned',
}
const KIND_CHOICES = Object.entries(KINDS).map(([value, title]) => ({ value, title }))
const active = computed(() => response.value?.stages.filter((stage) => !stage.archived) ?? [])
const archived = computed(() => response.value?.stages.filter((stage) => stage.archived) ?? [])
/** The stage that is being archived, and where its people go. */
const leaving = ref<Stage | null>(null)
const moveTo = ref<string | null>(null)
const NEW = 'new stage'

async function read(): Promise<void> {
  response.value = await call(listStages)
}
const nameOf = (key: string) => response.value?.fields.find((field) => field.key === key)?.label ?? key
function gateInWords({ attempts, reason, note, fields }: Stage['gate']): string {
  return [
    attempts && `${attempts} ${attempts === 1 ? 'attempt' : 'attempts'} before`,
    reason && 'a reason',
    note && 'a note',
    ...(fields ?? []).map((key) => `${nameOf(key)} filled in`),
  ]
    .filter(Boolean)
    .join(', ')
}
function edit(stage: Stage): void {
  open.value = stage.id
  formError.value = ''
  Object.assign(given.value, {
    kind: stage.kind,
    name: stage.name,
    attempts: String(stage.gate.attempts ?? ''),
    reason: stage.gate.reason ?? false,
    note: stage.gate.note ?? false,
    fields: [...(stage.gate.fields ?? [])],
  })
}
function begin(): void {
  open.value = NEW
  formError.value = ''
  Object.assign(given.value, { kind: 'open', name: '', attempts: '', reason: false, note: false, fields: [] })
}
async function act(work: () => Promise<unknown>, label: string): Promise<boolean> {
  try {
    await work()
    notices.say(label)
    await read()
    return true
  } catch (error) {
    notices.error(error)
    return false
  }
}
function move(index: number, by: number): void {
  const ids = active.value.map((stage) => stage.id)
  if (!ids[index + by]) return
  ids.splice(index + by, 0, ...ids.splice(index, 1))
  void act(() => call(orderStages, { body: { ids } }), 'Saved.')
}
function askArchive(stage: Stage): void {
  leaving.value = stage
  moveTo.value = null
}
async function archive(): Promise<void> {
  const stage = leaving.value!
  const done = await act(
    async () => {
      await call(archiveStage, { params: { stage: stage.id }, body: { moveTo: moveTo.value } })
    },
    moveTo.value
      ? `“${stage.name}” is archived. Its people are being moved; see Bulk actions.`
      : `“${stage.name}” is archived.`,
  )
  if (done) leaving.value = null
}
async function save(): Promise<void> {
  const attempts = Number(given.value.attempts || 0)
  try {
    const body = {
      name: given.value.name,
      kind: given.value.kind,
      gate: {
        ...(attempts && { attempts }),
        ...(given.value.reason && { reason: true }),
        ...(given.value.note && { note: true }),
        ...(given.value.fields.length && { fields: given.value.fields }),
      },
    }
    if (open.value === NEW) await call(addStage, { body })
    else await call(editStage, { params: { stage: open.value! }, body })
    notices.say('Saved.')
    open.value = null
    await read()
  } catch (error) {
    formError.value =
      error instanceof ApiError ? (error.problems[0]?.message ?? error.message) : 'It could not be saved'
  }
}
// The settings wait until all their tables are there, so that nothing moves.
await read().catch(notices.error)
</script>

<template>
  <section v-if="response" aria-label="Stages and gates">
    <div class="spread">
      <h2>Stages and gates</h2>
      <v-btn v-if="session.manages" size="small" variant="outlined" @click="begin">Add a stage</v-btn>
    </div>
    <p class="dim mb-2">
      How far a prospect is. A gate is what must be there before they can be moved in, by a rep or an outcome.
    </p>
    <div class="scroll">
      <table class="sheet">
        <thead>
          <tr>
            <th>Stage</th>
            <th>Kind</th>
            <th>Gate</th>
            <th class="right">Prospects</th>
            <th><span class="sr">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          <template v-for="(stage, index) in active" :key="stage.id">
            <tr>
              <td>{{ stage.name }}</td>
              <td class="dim">{{ KINDS[stage.kind] }}</td>
              <td>{{ gateInWords(stage.gate) || '' }}<span v-if="!gateInWords(stage.gate)" class="dim">none</span></td>
              <td class="num right">{{ stage.people.toLocaleString('en-US') }}</td>
              <td class="acts">
                <template v-if="session.manages"
                  ><button class="link small" :aria-label="`Edit ${stage.name}`" @click="edit(stage)">Edit</button
                  ><button
                    class="link small"
                    :disabled="index === 0"
                    :aria-label="`Move ${stage.name} up`"
                    @click="move(index, -1)"
                  >
                    Up</button
                  ><button
                    class="link small"
                    :disabled="index === active.length - 1"
                    :aria-label="`Move ${stage.name} down`"
                    @click="move(index, 1)"
                  >
                    Down</button
                  ><button class="link small" :aria-label="`Archive ${stage.name}`" @click="askArchive(stage)">
                    Archive
                  </button></template
                >
              </td>
            </tr>
            <tr v-if="open === stage.id">
              <td colspan="5">
                <StageForm
                  v-model="given"
                  :kinds="KIND_CHOICES"
                  :fields="response.fields"
                  :form-error="formError"
                  @save="save"
                  @cancel="open = null"
                />
              </td>
            </tr>
          </template>
          <tr v-if="open === NEW">
            <td colspan="5">
              <StageForm
                v-model="given"
                :kinds="KIND_CHOICES"
                :fields="response.fields"
                :form-error="formError"
                @save="save"
                @cancel="open = null"
              />
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="archived.length" class="dim small mt-2">
      Archived:
      <span v-for="stage in archived" :key="stage.id"
        >{{ stage.name }}<template v-if="stage.people"> ({{ stage.people }})</template>
        <button
          v-if="session.manages"
          class="link small"
          @click="
            act(
              () => call(editStage, { params: { stage: stage.id }, body: { archived: false } }),
              `“${stage.name}” restored.`,
            )
          "
        >
          Restore
        </button>
      </span>
    </p>
    <v-dialog
      :model-value="leaving !== null"
      max-width="420"
      aria-label="Archive a stage"
      @update:model-value="leaving = null"
    >
      <v-card v-if="leaving" class="pa-5">
        <form class="stack" @submit.prevent="archive">
          <h2>Archive “{{ leaving.name }}”</h2>
          <p>
            {{
              leaving.people
                ? `${leaving.people} ${leaving.people === 1 ? 'prospect is' : 'prospects are'} in it. Move them to:`
                : 'No prospects are in it.'
            }}
          </p>
          <v-select
            v-if="leaving.people"
            v-model="moveTo"
            :items="[{ id: null, name: 'Leave them in it' }, ...active.filter((stage) => stage.id !== leaving!.id)]"
            item-value="id"
            item-title="name"
            label="Move them to"
          />
          <div class="row">
            <v-btn type="submit" color="primary">Archive</v-btn
            ><v-btn variant="text" @click="leaving = null">Cancel</v-btn>
          </div>
        </form>
      </v-card>
    </v-dialog>
  </section>
</template>

<style scoped>
section {
  margin-bottom: 34px;
}
.scroll {
  overflow-x: auto;
}
.right {
  text-align: right;
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

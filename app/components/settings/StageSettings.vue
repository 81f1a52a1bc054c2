<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import type { StageKind } from '#core/enumerations'
import { addStage, archiveStage, editStage, orderStages, stages as listStages } from '#shared/api/settings/stages'
import { call } from '~/api/call'
import { useInTurn, useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'
import { blankStage, draftOf, gateOf, type StageDraft, type StageSetting } from './stageDraft'

/** The stages prospects go through, and what a move into each requires: its gate. */
const session = useSession()
const notices = useNotices()
const response = shallowRef<z.output<typeof listStages.response> | null>(null)
const active = computed(() => response.value?.stages.filter((stage) => !stage.archived) ?? [])
const archived = computed(() => response.value?.stages.filter((stage) => stage.archived) ?? [])
const fieldName = (key: string) => response.value?.fields.find((field) => field.key === key)?.label ?? key

/** The stage in the form: one that exists, or a new one. */
const draft = ref<StageDraft | null>(null)
const edited = shallowRef<StageSetting | null>(null)
const others = computed(() => active.value.filter((stage) => stage.id !== edited.value?.id))
const { formError, busy, send } = useSending()
/** The stage that is being archived, and where its people go. */
const leaving = ref<StageSetting | null>(null)
const moveTo = ref<string | null>(null)

async function read(): Promise<void> {
  response.value = await call(listStages)
}
const placeOf = (stage: StageSetting) => active.value[active.value.indexOf(stage) - 1]?.id ?? null
function edit(stage: StageSetting): void {
  formError.value = null
  edited.value = stage
  draft.value = draftOf(stage, placeOf(stage))
}
function begin(kind: StageKind, after: string | null): void {
  formError.value = null
  edited.value = null
  draft.value = blankStage(kind, after)
}
/** The order with a stage behind another one. */
function orderWith(id: string, after: string | null): string[] {
  const ids = active.value.map((stage) => stage.id).filter((one) => one !== id)
  ids.splice(after === null ? 0 : ids.indexOf(after) + 1, 0, id)
  return ids
}
async function place(stage: StageSetting, after: string | null): Promise<void> {
  if (placeOf(stage) !== after) await call(orderStages, { body: { ids: orderWith(stage.id, after) } })
}
const save = () =>
  send(async () => {
    const { name, kind, after } = draft.value!
    const body = { name, kind, gate: gateOf(draft.value!) }
    if (edited.value) {
      await call(editStage, { params: { stage: edited.value.id }, body })
      await place(edited.value, after)
    } else await call(addStage, { body: { ...body, after } })
    notices.say(`“${name}” saved.`)
    draft.value = null
    await read()
  })
async function act(work: () => Promise<unknown>, label: string): Promise<boolean> {
  const done = await work().then(
    () => true,
    (error: unknown) => {
      notices.error(error)
      return false
    },
  )
  // What is said is in sight by then, for the next move to start from.
  await read().catch(notices.error)
  if (done) notices.say(label)
  return done
}
const inTurn = useInTurn()
let moves = 0
/** Moves a stage at once, so that the next move starts from there; moves are saved one after the other. */
async function move(id: string, kind: StageKind, after: string | null): Promise<void> {
  const stages = active.value
  const stage = stages.find((one) => one.id === id)!
  const ids = orderWith(id, after)
  const moved = ids.map((one) => (one === id ? { ...stage, kind } : stages.find((other) => other.id === one)!))
  response.value = { ...response.value!, stages: [...moved, ...archived.value] }
  const mine = ++moves
  try {
    await inTurn(async () => {
      if (kind !== stage.kind) await call(editStage, { params: { stage: id }, body: { kind } })
      await call(orderStages, { body: { ids } })
    })
    notices.say(`“${stage.name}” moved.`)
  } catch (error) {
    notices.error(error)
  }
  // Read once the last move is saved, and shown where none was made since.
  if (mine !== moves) return
  const fresh = await call(listStages).catch(notices.error)
  if (fresh && mine === moves) response.value = fresh
}
function askArchive(): void {
  leaving.value = edited.value
  moveTo.value = null
  draft.value = null
}
async function archive(): Promise<void> {
  const stage = leaving.value!
  const done = await act(
    () => call(archiveStage, { params: { stage: stage.id }, body: { moveTo: moveTo.value } }),
    moveTo.value
      ? `“${stage.name}” is archived. Its people are being moved; see Bulk actions.`
      : `“${stage.name}” is archived.`,
  )
  if (done) leaving.value = null
}
const restore = (stage: StageSetting) =>
  act(
    () => call(editStage, { params: { stage: stage.id }, body: { archived: false } }),
    `“${stage.name}” is in use again.`,
  )
// The settings wait until all their tables are there, so that nothing moves.
await read().catch(notices.error)
</script>

<template>
  <section v-if="response" aria-label="Stages and gates">
    <div class="spread mb-2">
      <h2>Stages and gates</h2>
      <v-btn
        v-if="session.manages"
        size="small"
        variant="outlined"
        @click="begin('open', active.findLast((stage) => stage.kind === 'open')?.id ?? null)"
        >Add a stage</v-btn
      >
    </div>
    <p class="dim mb-2">
      How far along a prospect is. A gate is what a move into a stage requires, by a rep, an outcome or a bulk action
      alike.
      <template v-if="session.manages">
        Drag a stage, or press <kbd>Alt</kbd> with <kbd>←</kbd> or <kbd>→</kbd>, to move it; select it to edit it.
      </template>
    </p>
    <StageMap
      :stages="active"
      :field-name="fieldName"
      :editable="session.manages"
      @edit="edit"
      @add="begin"
      @move="move"
    />
    <p v-if="archived.length" class="dim small mt-2">
      Archived:
      <span v-for="stage in archived" :key="stage.id" class="old"
        >{{ stage.name }}<template v-if="stage.people"> ({{ stage.people }})</template>
        <button v-if="session.manages" class="link small" @click="restore(stage)">Restore</button>
      </span>
    </p>
    <v-dialog
      :model-value="draft !== null"
      max-width="620"
      :aria-label="edited ? 'Edit stage' : 'New stage'"
      @update:model-value="draft = null"
    >
      <v-card v-if="draft" class="pa-5">
        <StageForm
          v-model="draft"
          :title="edited ? `Edit “${edited.name}”` : 'New stage'"
          :others="others"
          :fields="response.fields"
          :form-error="formError"
          :busy="busy"
          :exists="edited !== null"
          @save="save"
          @cancel="draft = null"
          @archive="askArchive"
        />
      </v-card>
    </v-dialog>
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
          <FormFooter action="Archive" @cancel="leaving = null" />
        </form>
      </v-card>
    </v-dialog>
  </section>
</template>

<style scoped>
section {
  margin-bottom: 34px;
}
.old {
  margin-right: 12px;
}
</style>

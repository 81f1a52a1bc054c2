<script setup lang="ts">
import { ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { actionInWords } from '#core/actions/registry'
import { COUNTS_AS, OUTCOME_USES, REQUIRED_INPUTS } from '#core/enumerations'
import { keyShown, outcomeKey } from '#core/queue/outcomeKey'
import { stages } from '#shared/api/settings/stages'
import { listOutcomes, orderOutcomes } from '#shared/api/settings/outcomes'
import { call } from '~/api/call'
import { useOptions } from '~/composables/options'
import { useInTurn } from '~/composables/sending'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'
import { useActionWorld } from './actions/actionWorld'

/** What reps can pick after a call, in the order of the number keys; managers change it here. */
type Settings = z.output<typeof listOutcomes.response>
type Outcome = Settings['outcomes'][number]
const session = useSession()
const notices = useNotices()
const outcomes = shallowRef<Outcome[]>([])
const gateFields = useOptions(() => call(stages).then((answer) => answer.fields))
const fieldName = (key: string) => gateFields.value.find((field) => field.key === key)?.label ?? 'a deleted field'
const { names, fields, read: readWorld } = useActionWorld()
const editing = ref(false)
const edited = shallowRef<Outcome | null>(null)

async function read(): Promise<void> {
  outcomes.value = await readWorld()
}
function edit(outcome: Outcome | null): void {
  edited.value = outcome
  editing.value = true
}
/** The key of the outcome at a place, and whether it has one: the first twenty do. */
const keyAt = (index: number) => keyShown(outcomeKey(index))
const placeInWords = (index: number) => (keyAt(index) ? `has the key ${keyAt(index)}` : 'has no key')
/** What it is used for, and what a call counts as. */
function usesInWords({ usedFor, countsAs }: Outcome): string {
  const counted = countsAs === 'none' ? 'not counted' : COUNTS_AS[countsAs]
  return `for ${usedFor.map((use) => (use === 'call' ? `calls (${counted})` : OUTCOME_USES[use])).join(', ')}`
}
const inTurn = useInTurn()
/** Moves an outcome at once, so that the next move starts from there; orders are saved one after the other. */
async function move(index: number, by: number): Promise<void> {
  const order = [...outcomes.value]
  order.splice(index + by, 0, ...order.splice(index, 1))
  outcomes.value = order
  try {
    await inTurn(() => call(orderOutcomes, { body: { ids: order.map(({ id }) => id) } }))
    const [moved, other] = [order[index + by]!, order[index]!]
    notices.say(
      [moved, other]
        .map(({ name, id }) => `“${name}” ${placeInWords(order.findIndex((one) => one.id === id))}`)
        .join('; ') + '.',
    )
  } catch (error) {
    notices.error(error)
    await read()
  }
}
// The settings wait until all their tables are there, so that nothing moves.
await read().catch(notices.error)
</script>

<template>
  <section>
    <div class="spread mb-2">
      <h2>Outcomes</h2>
      <v-btn v-if="session.manages" size="small" variant="outlined" @click="edit(null)">Add an outcome</v-btn>
    </div>
    <p class="dim mb-2">
      What a rep picks after a call, a reply or a to-do, and what each one does. The first ten have the keys 1 to 9 and
      0, the next ten the same with Shift.
    </p>
    <table class="sheet">
      <tbody>
        <tr v-for="(outcome, index) in outcomes" :key="outcome.id">
          <td class="keycol">
            <kbd v-if="keyAt(index)">{{ keyAt(index) }}</kbd>
          </td>
          <td class="namecol">
            <b>{{ outcome.name }}</b><br /><span class="dim small">{{ usesInWords(outcome) }}</span>
          </td>
          <td>
            {{ outcome.actions.map((action) => actionInWords(action, names!)).join('. ') }}.<span
              v-if="outcome.requiredInputs.length"
              class="dim"
            >
              Requires {{ outcome.requiredInputs.map((ask) => REQUIRED_INPUTS[ask]).join(', ') }}.</span
            >
            <span v-if="outcome.requiredFields.length" class="dim">
              Asks for {{ outcome.requiredFields.map((key) => fieldName(key)).join(', ') }} where it is empty.</span
            >
            <p v-for="sentence in outcome.faults" :key="sentence" class="clay small" role="note">{{ sentence }}.</p>
          </td>
          <td v-if="session.manages" class="acts">
            <button class="link small" :aria-label="`Edit ${outcome.name}`" @click="edit(outcome)">Edit</button>
            <button
              class="link small"
              :disabled="index === 0"
              :aria-label="`${outcome.name} up`"
              @click="move(index, -1)"
            >
              Up
            </button>
            <button
              class="link small"
              :disabled="index === outcomes.length - 1"
              :aria-label="`${outcome.name} down`"
              @click="move(index, 1)"
            >
              Down
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <OutcomeEditor
      v-if="names"
      v-model="editing"
      :outcome="edited"
      :names="names"
      :fields="fields"
      @done="read().catch(notices.error)"
    />
  </section>
</template>

<style scoped>
.keycol {
  width: 40px;
}
.namecol {
  width: 200px;
}
@media (max-width: 700px) {
  .namecol {
    width: 110px;
  }
}
.acts {
  text-align: right;
  white-space: nowrap;
}
.acts button {
  min-height: 24px;
  padding: 0 3px;
}
p.clay {
  color: var(--clay-deep);
}
.acts button:disabled {
  color: var(--stone);
  cursor: default;
}
</style>

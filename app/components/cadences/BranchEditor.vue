<script setup lang="ts">
import { onMounted, shallowRef } from 'vue'
import { WAY_CONDITIONS, type WayCondition } from '#core/cadence/ways'
import { ME, type Field } from '#core/filter/fields'
import { normalize, type Filter } from '#core/filter/filter'
import { filterFields } from '#shared/api/lists'
import type { StepDraft, WayDraft } from '#shared/api/cadences/cadences'
import { call } from '~/api/call'
import { useNotices } from '~/stores/notices'
import { blankWay } from './blankStep'

/** The ways of a branch, in the order they are tried: what decides on each, and whether the cadence ends with it. */
const props = defineProps<{
  step: StepDraft
  /** The ways that steps are on: they are emptied before they are removed. */
  usedWays: ReadonlySet<string | null>
  errorAt: (field: string) => string | undefined
}>()
const emit = defineEmits<{ change: [changed: Partial<StepDraft>] }>()

type Type = WayCondition['type'] | 'otherwise'
const TYPES = Object.entries(WAY_CONDITIONS).map(([value, title]) => ({ value, title }))
const fields = shallowRef<readonly Field[]>([])
const outcomes = shallowRef<readonly { id: string; name: string }[]>([])
onMounted(() =>
  call(filterFields).then((answer) => {
    // Nobody looks when a branch is decided: there is no "me".
    fields.value = answer.fields.map((field) => ({ ...field, choices: field.choices?.filter(({ id }) => id !== ME) }))
    outcomes.value = answer.fields.find(({ key }) => key === 'outcomes')?.choices ?? []
  }, useNotices().error),
)
const set = (ways: WayDraft[]) => emit('change', { ways })
const change = (index: number, changed: Partial<WayDraft>) =>
  set(props.step.ways.map((way, place) => (place === index ? { ...way, ...changed } : way)))
function setType(index: number, type: Type): void {
  const blank: Record<WayCondition['type'], WayCondition> = {
    outcome: { type: 'outcome', outcomeIds: [] },
    reached: { type: 'reached' },
    opened: { type: 'opened' },
    clicked: { type: 'clicked' },
    replied: { type: 'replied' },
    answeredText: { type: 'answeredText' },
    filter: { type: 'filter', where: normalize({ all: [] }) as Filter },
  }
  if (type !== 'otherwise') change(index, { when: blank[type] })
}
function move(index: number, by: number): void {
  const ways = [...props.step.ways]
  ways.splice(index + by, 0, ...ways.splice(index, 1))
  set(ways)
}
const add = () => set([...props.step.ways.slice(0, -1), blankWay(), ...props.step.ways.slice(-1)])
const isLast = (index: number) => index === props.step.ways.length - 1
</script>

<template>
  <div class="branch">
    <CheckBox
      :model-value="step.endsEarly"
      label="Go on as soon as a call, an open or a reply decides"
      @update:model-value="emit('change', { endsEarly: $event })"
    />
    <h3>Ways, in the order they are tried</h3>
    <ol>
      <li v-for="(way, index) in step.ways" :key="way.id">
        <div class="row wrap">
          <v-text-field
            :model-value="way.name"
            label="Way"
            maxlength="60"
            class="name"
            @update:model-value="change(index, { name: $event })"
          />
          <v-select
            v-if="!isLast(index)"
            :model-value="way.when?.type"
            :items="TYPES"
            label="If"
            class="what"
            @update:model-value="setType(index, $event as Type)"
          />
          <p v-else class="dim what">for everyone else</p>
          <v-select
            v-if="way.when?.type === 'outcome'"
            :model-value="way.when.outcomeIds"
            :items="outcomes"
            item-value="id"
            item-title="name"
            multiple
            label="Outcomes"
            class="wide"
            @update:model-value="change(index, { when: { type: 'outcome', outcomeIds: [...$event] } })"
          />
        </div>
        <FilterSentence
          v-if="way.when?.type === 'filter' && fields.length"
          :model-value="way.when.where"
          :fields="fields"
          @update:model-value="change(index, { when: { type: 'filter', where: $event } })"
        />
        <div class="spread">
          <CheckBox
            :model-value="way.ends"
            label="The cadence ends with this way"
            @update:model-value="change(index, { ends: $event })"
          />
          <span v-if="!isLast(index)" class="row">
            <button type="button" class="link small" :disabled="index === 0" @click="move(index, -1)">Up</button>
            <button type="button" class="link small" :disabled="index >= step.ways.length - 2" @click="move(index, 1)">
              Down
            </button>
            <button
              type="button"
              class="link small"
              :disabled="step.ways.length <= 2 || usedWays.has(way.id)"
              :title="usedWays.has(way.id) ? 'Delete or move its steps first' : ''"
              @click="set(step.ways.filter((one) => one !== way))"
            >
              Remove
            </button>
          </span>
        </div>
        <p v-if="errorAt(`ways.${index}`)" class="clay small" role="alert">{{ errorAt(`ways.${index}`) }}</p>
      </li>
    </ol>
    <p v-if="errorAt('ways')" class="clay small" role="alert">{{ errorAt('ways') }}</p>
    <v-btn size="small" variant="outlined" :disabled="step.ways.length >= 8" @click="add">Add a way</v-btn>
  </div>
</template>

<style scoped>
.branch {
  display: grid;
  gap: 8px;
  justify-items: start;
}
ol {
  list-style: none;
  padding: 0;
  margin: 0;
  width: 100%;
}
li {
  border-top: 1px solid var(--line);
  padding: 8px 0 2px;
}
.wrap {
  flex-wrap: wrap;
}
.name {
  flex: 0 1 190px;
}
.what {
  flex: 0 1 230px;
}
.wide {
  flex: 1 1 220px;
}
.clay {
  color: var(--clay-deep);
}
.link:disabled {
  opacity: 0.4;
}
</style>

<script setup lang="ts">
import { COMPANY_STATUSES } from '#core/enumerations'
import type { Field } from '#core/filter/fields'
import { daysOf } from '#core/queue/touchGoal'
import type { List } from '#shared/api/lists'
import type { useTimes } from '~/composables/times'
import { fieldText, type DrawnColumn, type TablePerson } from './peopleColumns'

/**
 * A person as a row. Links are the router's own: the framework's look ahead to where each leads, which a row that
 * scrolls by has no time for.
 */
const props = defineProps<{
  item: TablePerson
  goalList: List | null
  listNames: ReadonlyMap<string, string>
  drawn: readonly DrawnColumn[]
  /** Made once for the table, not for every row that scrolls by. */
  times: ReturnType<typeof useTimes>
  now: number
  picked: boolean
  template: string
}>()
const emit = defineEmits<{ pick: [reach: boolean]; planned: [] }>()
const STAGE_TONES = { open: 'slate', paused: '', won: 'pine', closed: '' }

const label = (field: Field, value: unknown) => fieldText(field, value, props.times)
/** How far a touch goal is from falling due, in words. */
function keeps(touchGoal: NonNullable<TablePerson['touchGoal']>): string {
  const days = Math.floor(Math.abs(touchGoal.dueAt - props.now) / 86_400_000)
  const said = days === 0 ? 'today' : `${days} ${days === 1 ? 'day' : 'days'}`
  if (touchGoal.status === 'overdue') return days === 0 ? 'overdue since today' : `${said} overdue`
  return days === 0 ? 'due today' : `due in ${said}`
}

function overdue(field: Field, value: unknown): boolean {
  return field.key === 'nextAction' && typeof value === 'number' && value < props.now
}
</script>

<template>
  <div class="line" role="row" :data-id="item.id" :class="{ picked }" :style="{ gridTemplateColumns: template }">
    <span role="cell"
      ><input
        type="checkbox"
        :checked="picked"
        :aria-label="`Select ${item.name}`"
        @click="emit('pick', $event.shiftKey)"
    /></span>
    <span role="cell" class="two"
      ><span class="cut"
        ><RouterLink :to="`/prospects/${item.id}`" class="name">{{ item.name }}</RouterLink
        ><span v-if="item.rating" class="rate" :class="item.rating">{{ item.rating }}</span></span
      ><small class="dim cut">{{
        [
          item.title ?? item.email ?? item.phoneShown,
          drawn.some(({ field }) => field.key === 'companyName') ? null : item.company?.name,
        ]
          .filter(Boolean)
          .join(' · ')
      }}</small></span
    >
    <span v-if="goalList" role="cell" class="two wide"
      ><template v-if="item.touchGoal"
        ><span class="num" :class="item.touchGoal.status">{{ keeps(item.touchGoal) }}</span
        ><small class="dim cut"
          ><NextTouch
            v-if="!item.nextAt || item.nextAt > item.touchGoal.dueAt"
            :person="item"
            :again="() => emit('planned')"
          />
          {{
            item.touchGoal.listId === goalList.id
              ? !item.nextAt
                ? 'nothing scheduled'
                : item.nextAt < now
                  ? 'overdue'
                  : `next ${times.ago(item.nextAt)}`
              : `goal of ${listNames.get(item.touchGoal.listId) ?? 'another list'}`
          }}</small
        ></template
      ></span
    >
    <span
      v-for="{ field, width } in drawn"
      :key="field.key"
      role="cell"
      class="cut wide"
      :class="{
        num: ['number', 'moment'].includes(field.kind),
        right: field.kind === 'number',
        dim: field.kind === 'moment' && field.key !== 'nextAction',
        clay: overdue(field, item.values[field.key]),
      }"
      :title="field.key === 'thread' ? undefined : label(field, item.values[field.key])"
    >
      <RouterLink
        v-if="field.key === 'companyName' && item.company"
        :to="`/companies/${item.company.id}`"
        class="plainlink"
        >{{ item.company.name
        }}<span v-if="item.company.status !== 'open'" class="dim">
          · {{ COMPANY_STATUSES[item.company.status] }}</span
        ></RouterLink
      >
      <span v-else-if="field.key === 'stage'" class="chip" :class="STAGE_TONES[item.stage.kind]">{{
        item.stage.name
      }}</span>
      <span v-else-if="field.key === 'owner'" class="dim">{{ item.owner?.name ?? 'nobody' }}</span>
      <ThreadMini
        v-else-if="field.key === 'thread'"
        :knots="(item.values.thread ?? []) as [number, string][]"
        :now="now"
        :next="item.nextAt"
        :since="item.createdAt"
        :goal-days="daysOf(item.touchGoal?.every ?? goalList?.touchEvery ?? { amount: 30, unit: 'days' })"
        :width="width"
      />
      <template v-else-if="field.key === 'tags'"
        ><span v-for="tag in item.values.tags as string[]" :key="tag" class="chip tag">{{
          field.choices?.find((choice) => choice.id === tag)?.name
        }}</span></template
      >
      <template v-else>{{ label(field, item.values[field.key]) }}</template>
    </span>
  </div>
</template>

<style scoped src="./peopleTable.css"></style>
<style scoped>
.line:hover {
  background: var(--card);
}
.line.picked {
  background: var(--pine-soft);
}
.two {
  display: grid;
  min-width: 0;
  line-height: 1.3;
}
.name {
  font-weight: 550;
  text-decoration: none;
}
.plainlink {
  text-decoration: none;
}
.name:hover,
.plainlink:hover {
  text-decoration: underline;
}
.clay {
  color: var(--clay-deep);
}
.overdue {
  color: var(--clay-deep);
  font-weight: 600;
}
.due_soon {
  color: var(--amber-deep);
}
.rate {
  margin-left: 7px;
  font-size: 12.5px;
  color: var(--dim);
}
.rate.hot {
  color: var(--amber-deep);
  font-weight: 600;
}
.tag {
  margin-right: 4px;
}
</style>

<script setup lang="ts">
import { reactive, ref, watch } from 'vue'
import type { ListKind } from '#core/enumerations'
import type { Field } from '#core/filter/fields'
import { normalize, withoutEmptyGroups, type Filter } from '#core/filter/filter'
import type { TouchInterval } from '#core/queue/touchGoal'
import { addList, editList, removeList, type List } from '#shared/api/lists'
import { listUsers } from '#shared/api/settings/settings'
import { ApiError, call } from '~/api/call'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** Makes a list of what is asked for now, or changes who sees a list and its touch goal. */
const open = defineModel<boolean>({ required: true })
const props = defineProps<{
  list: List | null
  filter: Filter
  sentence: string
  count: number | null
  columns: List['columns']
  sort: List['sort']
  prospectIds: readonly string[]
  fields: readonly Field[]
  defaultView: List['defaultView']
}>()
const emit = defineEmits<{ done: [id: string | null] }>()
const session = useSession()
const notices = useNotices()
const given = reactive({
  name: '',
  kind: 'live' as ListKind,
  visibility: 'me' as List['visibility'],
  viewerIds: [] as string[],
  team: null as string | null,
  filter: { all: [] } as Filter,
  defaultView: 'people' as List['defaultView'],
  touchGoal: false,
  every: { amount: 1, unit: 'months' } as TouchInterval,
  kinds: [] as string[],
})
const users = ref<{ id: string; name: string }[]>([])
const teams = ref<string[]>([])
const formError = ref<ApiError | null>(null)
const busy = ref(false)
const removing = ref(false)
const KINDS = [
  ['call', 'calls'],
  ['text', 'texts'],
  ['email', 'emails'],
  ['meeting', 'meetings'],
] as const

watch(open, async (now) => {
  if (!now) return
  formError.value = null
  removing.value = false
  const { list } = props
  Object.assign(given, {
    name: list?.name ?? '',
    kind: list?.kind ?? (props.prospectIds.length ? 'fixed' : 'live'),
    visibility: list?.visibility ?? (session.manages ? 'everyone' : 'me'),
    viewerIds: [...(list?.viewerIds ?? [])],
    team: list?.team ?? null,
    filter: normalize((list?.filter as Filter | null | undefined) ?? { all: [] }),
    defaultView: list?.defaultView ?? props.defaultView,
    touchGoal: Boolean(list?.touchEvery),
    every: { ...(list?.touchEvery ?? { amount: 1, unit: 'months' as const }) },
    kinds: [...(list?.touchKinds ?? KINDS.map(([kind]) => kind))],
  })
  const all = await call(listUsers).then(
    (answer) => answer.users,
    () => [],
  )
  users.value = all.filter((user) => user.id !== session.user?.id)
  teams.value = [
    ...new Set(
      all.flatMap((user) => (user.team && (session.manages || user.id === session.user?.id) ? [user.team] : [])),
    ),
  ].sort()
})
async function keep(): Promise<void> {
  if (busy.value) return
  busy.value = true
  formError.value = null
  const settings = {
    name: given.name,
    visibility: given.visibility,
    viewerIds: given.viewerIds,
    team: given.visibility === 'team' ? (given.team ?? '') : null,
    defaultView: given.defaultView,
    touchEvery: given.touchGoal ? given.every : null,
    touchKinds: given.kinds as 'call'[],
  }
  try {
    if (props.list) {
      await call(editList, {
        params: { id: props.list.id },
        body: {
          version: props.list.version,
          ...(props.list.kind === 'live' && { filter: withoutEmptyGroups(given.filter) }),
          ...settings,
        },
      })
      emit('done', props.list.id)
    } else {
      const what = props.prospectIds.length ? { prospectIds: [...props.prospectIds] } : { filter: props.filter }
      const { id } = await call(addList, {
        body: { kind: given.kind, columns: [...props.columns], sort: props.sort, ...what, ...settings },
      })
      notices.say(`“${given.name}” saved.`)
      emit('done', id)
    }
    open.value = false
  } catch (error) {
    if (error instanceof ApiError) formError.value = error
    else throw error
  }
  busy.value = false
}
async function remove(): Promise<void> {
  try {
    await call(removeList, { params: { id: props.list!.id } })
    open.value = false
    notices.say(`“${props.list!.name}” deleted. Its prospects are kept.`)
    emit('done', null)
  } catch (error) {
    notices.error(error)
  }
}
</script>

<template>
  <v-dialog v-model="open" max-width="520" aria-label="List">
    <v-card class="pa-5">
      <h2 class="mb-1">{{ list ? 'List settings' : 'Save as list' }}</h2>
      <p class="dim mb-3">
        {{
          list
            ? list.kind === 'live'
              ? 'Live list: everyone who matches'
              : 'Fixed list of people'
            : prospectIds.length
              ? `${prospectIds.length} selected ${prospectIds.length === 1 ? 'person' : 'people'}`
              : sentence
        }}
      </p>
      <form class="form" @submit.prevent="keep">
        <div v-if="list?.kind === 'live'" class="own">
          <FilterSentence v-model="given.filter" :fields="fields" />
          <p v-if="formError?.at('filter')" class="notice clay" role="alert">{{ formError.at('filter') }}</p>
        </div>
        <v-text-field
          v-model="given.name"
          v-focus
          label="Name"
          maxlength="100"
          :error-messages="formError?.at('name')"
        />
        <v-radio-group v-if="!list && !prospectIds.length" v-model="given.kind"
          ><v-radio value="live" label="Live: everyone who matches, from now on" /><v-radio
            value="fixed"
            :label="`Fixed: the ${count?.toLocaleString('en-US') ?? ''} who match now`"
        /></v-radio-group>
        <v-select
          v-model="given.visibility"
          label="Visible to"
          :items="[
            { value: 'me', title: 'Only me' },
            { value: 'named', title: 'People I name' },
            ...(teams.length ? [{ value: 'team', title: session.manages ? 'A team' : 'My team' }] : []),
            ...(session.manages ? [{ value: 'everyone', title: 'Everyone on the team' }] : []),
          ]"
          :error-messages="formError?.at('visibility')"
        />
        <v-select
          v-if="given.visibility === 'named'"
          v-model="given.viewerIds"
          label="Who"
          multiple
          :items="users"
          item-value="id"
          item-title="name"
        />
        <v-select
          v-if="given.visibility === 'team'"
          v-model="given.team"
          label="Which team"
          :items="teams"
          :error-messages="formError?.at('team')"
        />
        <v-select
          v-model="given.defaultView"
          label="Default view"
          :items="[
            { value: 'people', title: 'People' },
            { value: 'companies', title: 'Companies' },
            { value: 'map', title: 'Map' },
          ]"
        />
        <CheckBox v-model="given.touchGoal" label="Touch goal" />
        <div v-if="given.touchGoal" class="goal">
          <v-text-field
            v-model.number="given.every.amount"
            type="number"
            min="1"
            max="1000"
            label="Every"
            :error-messages="formError?.at('touchEvery.amount')"
          /><v-select v-model="given.every.unit" label="Unit" :items="['days', 'weeks', 'months']" class="unit" /><span
            class="counts"
            ><span class="dim">What counts</span
            ><label v-for="[kind, label] in KINDS" :key="kind"
              ><input v-model="given.kinds" type="checkbox" :value="kind" /> {{ label }}</label
            ></span
          >
        </div>
        <p v-if="formError && !formError.problems.length" class="notice clay" role="alert">{{ formError.message }}</p>
        <div class="spread">
          <div class="row">
            <v-btn type="submit" color="primary" :loading="busy">{{ list ? 'Save' : 'Save list' }}</v-btn><v-btn
              variant="text"
              @click="open = false"
              >Cancel</v-btn
            >
          </div>
          <span v-if="list"
            ><button v-if="!removing" type="button" class="link small" @click="removing = true">Delete list</button
            ><v-btn v-else color="error" size="small" @click="remove"
              >Delete “{{ list.name }}”, keep its people</v-btn
            ></span
          >
        </div>
      </form>
      <RecordChanges v-if="list" :id="list.id" of="list" title="Changes of the list" class="mt-4" />
    </v-card>
  </v-dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
}
.own {
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 6px 10px;
}
.goal {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
}
.goal .v-text-field {
  max-width: 110px;
}
.goal .unit {
  max-width: 130px;
}
.counts {
  flex: 1 1 100%;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
}
</style>

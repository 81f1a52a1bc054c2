<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import { weekPeople } from '#shared/api/team'
import { call } from '~/api/call'
import { useMoney } from '~/composables/money'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** The people behind a number of the week. */
const asked = defineModel<{
  user: string
  measure: z.input<typeof weekPeople.query>['measure']
  from: number
  to: number
  title: string
} | null>({ required: true })
const times = useTimes()
const money = useMoney()
const notices = useNotices()
const found = shallowRef<z.output<typeof weekPeople.response> | null>(null)
watch(asked, async (now) => {
  found.value = null
  if (!now) return
  const { user, measure, from, to } = now
  found.value = await call(weekPeople, { query: { ...(user && { user }), measure, from, to } }).catch((error) => {
    notices.error(error)
    return null
  })
})
const showsBy = computed(() => asked.value?.user === '')
</script>

<template>
  <v-dialog
    :model-value="asked !== null"
    max-width="620"
    aria-label="People behind the number"
    scrollable
    @update:model-value="asked = null"
  >
    <v-card v-if="asked" class="pa-5">
      <div class="spread mb-3">
        <h2>{{ asked.title }}</h2>
        <v-btn size="small" variant="text" @click="asked = null">Close</v-btn>
      </div>
      <p v-if="!found" class="dim" role="status">Loading …</p>
      <div v-else class="list">
        <p v-for="(one, index) in found.people" :key="index" class="spread">
          <span class="grow cut"
            ><NuxtLink :to="`/prospects/${one.prospectId}`">{{ one.name }}</NuxtLink
            ><span class="dim"
              >{{ one.company ? `, ${one.company}` : '' }}{{ showsBy ? ` · ${one.by}` : '' }}</span
            ></span
          ><span class="num dim small"
            >{{ one.value === null ? '' : `${money.show(one.value)} · ` }}{{ times.moment(one.at) }}</span
          >
        </p>
        <p v-if="!found.people.length" class="dim">You can no longer see these prospects.</p>
        <p v-if="found.more" class="dim">and {{ found.more.toLocaleString('en-US') }} more</p>
      </div>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.list {
  overflow-y: auto;
  max-height: 60vh;
}
.list p {
  padding: 3px 0;
  border-bottom: 1px solid var(--line);
}
</style>

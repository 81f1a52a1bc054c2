<script setup lang="ts">
import { COMPANY_STATUSES } from '#core/enumerations'
import type { Prospect } from '#shared/api/prospects'
import { useTimes } from '~/composables/times'

/** Who a person is, at a glance: name, title, company and tags; status, rating, stage, and what time it is there. */
defineProps<{ person: Prospect; now: number }>()
const emit = defineEmits<{ changed: [] }>()
const times = useTimes()
const COMPANY_COLORS: Record<string, string> = { customer: 'pine', in_deal: 'amber' }
</script>

<template>
  <div class="spread head">
    <div>
      <h1>{{ person.name }}</h1>
      <p class="dim">
        {{ person.title }}<template v-if="person.title && person.company">, </template
        ><NuxtLink v-if="person.company" :to="`/companies/${person.company.id}`">{{ person.company.name }}</NuxtLink>
      </p>
      <TagLine :prospect-id="person.id" :tags="person.tags" @changed="emit('changed')" />
    </div>
    <div class="row wrap">
      <span v-if="person.status !== 'active'" class="chip clay">{{
        person.status === 'archived' ? 'archived' : 'paused'
      }}</span><span v-if="person.rating" class="chip" :class="{ amber: person.rating === 'hot' }">{{
        person.rating
      }}</span
      ><span v-if="person.score" class="chip"
        >score <span class="num">{{ person.score }}</span></span
      >
      <span class="chip slate">{{ person.stage.name }}</span>
      <span class="chip" :class="person.calling.open ? 'pine' : 'slate'"
        ><span class="num">{{ times.clock(now, person.timeZone) }}</span> there</span
      >
      <span
        v-if="person.company && person.company.status !== 'open'"
        class="chip"
        :class="COMPANY_COLORS[person.company.status] ?? 'clay'"
        >company: {{ COMPANY_STATUSES[person.company.status] }}</span
      >
      <span v-if="person.atDialer" class="chip slate"
        >with {{ person.atDialer.dialer }} since {{ times.moment(person.atDialer.since) }}</span
      >
      <span v-if="person.stopCall" class="chip clay">do not call</span
      ><span v-if="person.stopEmail" class="chip clay">do not email</span>
    </div>
  </div>
</template>

<style scoped>
.head {
  align-items: start;
}
.wrap {
  flex-wrap: wrap;
  justify-content: flex-end;
}
</style>

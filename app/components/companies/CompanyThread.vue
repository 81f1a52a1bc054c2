<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { TOUCH_KINDS, capitalized } from '#core/enumerations'
import { companyTouches } from '#shared/api/companies'
import { call } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'

/** All touches with everyone at a company as one thread, and one by one below. */
const props = defineProps<{ id: string }>()
const times = useTimes()
const notices = useNotices()
const all = ref(false)
const SHOWN = 10
const response = shallowRef<z.output<typeof companyTouches.response> | null>(null)
onMounted(() =>
  call(companyTouches, { params: { id: props.id } }).then((answer) => {
    response.value = answer
  }, notices.error),
)
const label = (touch: z.output<typeof companyTouches.response>['touches'][number]) =>
  [capitalized(TOUCH_KINDS[touch.kind]), touch.outcome?.toLowerCase() ?? (touch.subject ? `“${touch.subject}”` : null)]
    .filter(Boolean)
    .join(', ')
const knots = computed(() =>
  (response.value?.touches ?? []).map((touch) => ({
    at: touch.at,
    kind: touch.kind,
    summary: `${touch.name}: ${label(touch)}`,
  })),
)
</script>

<template>
  <section class="panel mt-4">
    <h3>The thread with everyone here</h3>
    <ThreadLine v-if="response" :touches="knots" :now="response.now" />
    <p v-if="response && !response.touches.length" class="dim">No touches yet.</p>
    <ol>
      <li v-for="touch in response?.touches.slice(0, all ? 60 : SHOWN) ?? []" :key="touch.id">
        <span class="num dim small">{{ times.moment(touch.at) }}</span><StepIcon
          :kind="touch.kind"
          :size="14"
          color="var(--pine)"
        /><span
          ><NuxtLink :to="`/prospects/${touch.prospectId}`">{{ touch.name }}</NuxtLink> · {{ label(touch) }}
          <span class="dim">{{ touch.by }}</span></span
        >
      </li>
    </ol>
    <button v-if="!all && (response?.touches.length ?? 0) > SHOWN" class="link small mt-2" @click="all = true">
      Show {{ Math.min(60, response!.touches.length) - SHOWN }} more
    </button>
    <p v-else-if="(response?.touches.length ?? 0) > 60" class="dim small">
      {{ response!.touches.length - 60 }} older ones are on the prospects’ pages.
    </p>
  </section>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 150px 20px 1fr;
  gap: 6px;
  padding: 4px 0;
  border-top: 1px solid var(--line);
  align-items: baseline;
}
li a {
  text-decoration: none;
}
li a:hover {
  text-decoration: underline;
}
</style>

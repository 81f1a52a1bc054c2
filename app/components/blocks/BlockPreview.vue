<script setup lang="ts">
import type { z } from 'zod'
import { previewBlock } from '#shared/api/blocks/blocks'
import { useAnswer } from '~/composables/answer'

/** Who would be called, now and later today, and who is skipped and why; looked at before a block is made. */
const props = defineProps<{ asked: z.input<typeof previewBlock.body> | null }>()
const {
  answer: found,
  isLoading: looking,
  lastError,
} = useAnswer(previewBlock, () => props.asked && { body: props.asked }, { failed: 'That could not be looked up' })
defineExpose({ found })
const count = (people: number) => people.toLocaleString()
</script>

<template>
  <section aria-live="polite">
    <p v-if="lastError" class="notice clay" role="alert">{{ lastError }}</p>
    <p v-else-if="looking" class="dim">Looking …</p>
    <p v-else-if="!found" class="dim">
      Choose who is to be called. Who would be skipped, and why, is shown here first.
    </p>
    <template v-else>
      <p class="lead">
        <b class="num">{{ count(found.people) }}</b> of {{ count(found.found) }} to call<template v-if="found.people"
          >: <b class="num">{{ count(found.callableNow) }}</b> can be called now, {{ count(found.laterToday) }} later
          today</template
        >.
      </p>
      <template v-if="found.skipped.length">
        <h2 class="mt-3">Skipped</h2>
        <details v-for="group in found.skipped" :key="group.why" class="skipped">
          <summary>
            <b class="num">{{ count(group.count) }}</b> {{ group.why }}
          </summary>
          <p class="small">
            <NuxtLink v-for="one in group.people" :key="one.id" :to="`/prospects/${one.id}`" class="link name">{{
              one.name
            }}</NuxtLink><span v-if="group.count > group.people.length" class="dim"
              >and {{ group.count - group.people.length }} more</span
            >
          </p>
        </details>
      </template>
    </template>
  </section>
</template>

<style scoped>
.lead {
  font-size: 1.15rem;
}
.skipped {
  border-top: 1px solid var(--line);
  padding: 6px 2px;
}
.name {
  margin-right: 10px;
}
</style>

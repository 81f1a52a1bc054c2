<script setup lang="ts">
/** Whom a change leaves out, by reason: nothing has gone wrong with them. */
defineProps<{
  unchanged?: boolean
  leftOut: readonly { reason: string; count: number; people: readonly { id: string; name: string }[] }[]
}>()
</script>

<template>
  <details v-for="one in leftOut" :key="one.reason">
    <summary>{{ one.count.toLocaleString('en-US') }} {{ unchanged ? '' : 'skipped: ' }}{{ one.reason }}</summary>
    <p class="dim small">
      <template v-for="(person, index) in one.people" :key="person.id"
        >{{ index ? ', ' : '' }}<NuxtLink :to="`/prospects/${person.id}`">{{ person.name }}</NuxtLink></template
      ><template v-if="one.count > one.people.length">
        and {{ (one.count - one.people.length).toLocaleString('en-US') }} more</template
      >
    </p>
  </details>
</template>

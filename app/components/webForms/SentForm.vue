<script setup lang="ts">
import type { Brief } from '#shared/api/desk/desk'
import { useTimes } from '~/composables/times'

/** What the person in hand sent with a web form. */
defineProps<{ form: NonNullable<Brief['form']>; firstName: string }>()
const times = useTimes()
</script>

<template>
  <section class="panel mt-3">
    <h3>{{ firstName }} sent “{{ form.name }}”, {{ times.moment(form.at) }}</h3>
    <dl v-if="form.answers.length">
      <template v-for="(answer, index) in form.answers" :key="index">
        <dt class="dim small">{{ answer.label }}</dt>
        <dd class="pre">{{ answer.value }}</dd>
      </template>
    </dl>
  </section>
</template>

<style scoped>
dl {
  margin: 4px 0 0;
  max-height: 220px;
  overflow: auto;
}
dd {
  margin: 0 0 4px;
}
</style>

<script setup lang="ts">
import { computed, ref } from 'vue'
import type { z } from 'zod'
import { navigateTo, useHead } from '#imports'
import { addBlock, type addToBlock, type editBlock } from '#shared/api/blocks/blocks'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { useSending } from '~/composables/sending'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** A call block before it is made: who, by whom, with what to say, and what comes of that. */
useHead({ title: 'New call block' })
const session = useSession()
const notices = useNotices()
const { formError, busy, send } = useSending()
const block = ref<Omit<z.input<typeof editBlock.body>, 'version'>>({
  name: '',
  purpose: 'first_contact',
  script: '',
  callerIds: session.user ? [session.user.id] : [],
  dueOn: null,
  target: null,
  targetOf: 'conversation',
  sort: 'list',
  phoneKinds: [],
  phoneStatuses: [],
  phoneTags: [],
  payBasis: 'none',
  payRate: 0,
  lines: 1,
  campaign: '',
  callBackMessage: '',
  leavesMessages: false,
})
const who = ref<z.input<typeof addToBlock.body> | null>(null)
const asked = computed(() => {
  const { phoneKinds, phoneStatuses, phoneTags, purpose } = block.value
  return who.value && { ...who.value, phoneKinds, phoneStatuses, phoneTags, purpose }
})
/** Made once, however often the button is pressed. */
const id = newId()
const make = () =>
  send(async () => {
    const { people } = await call(addBlock, {
      body: {
        id,
        ...block.value,
        target: block.value.target || null,
        dueOn: block.value.dueOn || null,
        ...who.value,
      },
    })
    notices.say(`“${block.value.name}” created, with ${people.toLocaleString()} to call.`)
    await navigateTo(`/blocks/${id}`)
  })
</script>

<template>
  <div class="page">
    <p class="dim small"><NuxtLink to="/blocks">Call blocks</NuxtLink></p>
    <h1 class="mb-3">New call block</h1>
    <form class="cols" novalidate @submit.prevent="make">
      <section class="panel" aria-label="Who">
        <h2 class="mb-2">Who is called</h2>
        <WhoField v-model="who" />
        <BlockPreview class="mt-4" :asked="asked" />
        <p v-if="formError?.at('who')" class="clay mt-2" role="alert">{{ formError.at('who') }}</p>
      </section>
      <section class="panel" aria-label="The block">
        <h2 class="mb-2">The block</h2>
        <BlockForm v-model="block" :form-error="formError" />
        <p v-if="formError && !formError.problems.length" class="clay mt-2" role="alert">{{ formError.message }}</p>
        <div class="row mt-4">
          <v-btn type="submit" color="primary" :loading="busy">Create call block</v-btn
          ><v-btn variant="text" to="/blocks">Cancel</v-btn>
        </div>
      </section>
    </form>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 400px) minmax(0, 1fr);
  gap: 20px;
  align-items: start;
}
@media (max-width: 900px) {
  .cols {
    grid-template-columns: 1fr;
  }
}
</style>

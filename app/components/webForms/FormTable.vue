<script setup lang="ts">
import { ref, shallowRef } from 'vue'
import { listForms, type Form } from '#shared/api/settings/forms'
import { call } from '~/api/call'
import { formHtml } from './formHtml'
import { useTimes } from '~/composables/times'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** The team's forms on the web: where each is, what it brought, and what is done with who sends it. */
const session = useSession()
const notices = useNotices()
const times = useTimes()
const forms = shallowRef<Form[]>([])
const editing = ref(false)
const chosen = shallowRef<Form | null>(null)
/** The form whose submissions are shown. */
const shown = shallowRef<Form | null>(null)
const showing = ref(false)

async function read(): Promise<void> {
  if (session.manages) forms.value = (await call(listForms)).forms
}
function edit(form: Form | null): void {
  chosen.value = form
  editing.value = true
}
function show(form: Form): void {
  shown.value = form
  showing.value = true
}
const copy = (text: string, what: string) =>
  navigator.clipboard.writeText(text).then(
    () => notices.say(`${what} copied.`),
    () =>
      notices.say('The browser does not let this page copy. Open the form and copy its address.', undefined, 'wrong'),
  )
await read().catch(notices.error)
</script>

<template>
  <section>
    <div class="spread mb-2">
      <div>
        <h2>Web forms</h2>
        <p class="dim">A person who sends one is matched to a prospect or added, and your actions are done at once.</p>
      </div>
      <v-btn v-if="session.manages" color="primary" @click="edit(null)">Add a form</v-btn>
    </div>
    <p v-if="!session.manages" class="dim">Forms are for managers.</p>
    <p v-else-if="!forms.length" class="dim">No forms yet. Add one, and put its link on your website.</p>
    <div v-else class="scroll">
      <table class="sheet" aria-label="Web forms">
        <thead>
          <tr>
            <th>Form</th>
            <th class="right">Sent</th>
            <th class="right">New people</th>
            <th>Last sent</th>
            <th />
          </tr>
        </thead>
        <tbody>
          <tr v-for="form in forms" :key="form.id">
            <td>
              <b>{{ form.name }}</b>
              <p class="small">
                <a :href="form.url" target="_blank" class="link">{{ form.url }}</a>
              </p>
              <p v-if="form.faults.length" class="clay small">{{ form.faults.join('. ') }}</p>
            </td>
            <td class="num right">{{ form.sent.toLocaleString('en-US') }}</td>
            <td class="num right">{{ form.added.toLocaleString('en-US') }}</td>
            <td class="num">{{ form.lastAt ? times.moment(form.lastAt) : 'never' }}</td>
            <td class="acts">
              <button class="link small" @click="edit(form)">Edit</button>
              <button class="link small" @click="show(form)">Submissions</button>
              <button class="link small" @click="copy(form.url, 'Link')">Copy link</button>
              <button class="link small" @click="copy(formHtml(form), 'HTML')">Copy HTML</button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <FormEditor v-model="editing" :form="chosen" @done="read().catch(notices.error)" />
    <FormSubmissions v-if="shown" v-model="showing" :form="shown" />
  </section>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
.acts {
  white-space: nowrap;
  text-align: right;
}
.acts button + button {
  margin-left: 12px;
}
</style>

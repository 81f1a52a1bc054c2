<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { navigateTo, useHead, useRoute } from '#imports'
import type { TemplateKind } from '#core/enumerations'
import { listEmailTemplates, type EmailTemplate } from '#shared/api/email/templates'
import { call } from '~/api/call'
import { useNotices } from '~/stores/notices'

/** Email templates and snippets: the list, and the one that is open beside it. */
const route = useRoute()
const notices = useNotices()
useHead({ title: 'Email templates' })
const kind = ref<TemplateKind>(route.query.kind === 'snippet' ? 'snippet' : 'email')
const archived = ref(false)
const templates = shallowRef<readonly EmailTemplate[] | null>(null)
/** The id of the one that is open; "new" for one that is not saved yet. */
const open = computed({
  get: () => (typeof route.query.open === 'string' ? route.query.open : null),
  set: (id) =>
    void navigateTo({ query: { ...(kind.value === 'snippet' && { kind: 'snippet' }), ...(id && { open: id }) } }),
})
async function read(): Promise<void> {
  try {
    const query = { kind: kind.value, archived: archived.value ? 'yes' : 'no' } as const
    templates.value = (await call(listEmailTemplates, { query })).templates
  } catch (error) {
    notices.error(error)
  }
}
onMounted(read)
watch(archived, read)
function show(next: TemplateKind): void {
  kind.value = next
  open.value = null
  void read()
}
const search = ref('')
const groups = computed(() => {
  const words = search.value.trim().toLowerCase()
  const found = (templates.value ?? []).filter((one) => `${one.name} ${one.category}`.toLowerCase().includes(words))
  return [...new Set(found.map((one) => one.category))]
    .sort((a, b) => Number(!a) - Number(!b) || a.localeCompare(b))
    .map((category) => ({ category, templates: found.filter((one) => one.category === category) }))
})
const usage = (one: EmailTemplate) => {
  const steps = one.usedBy.length
  const used = steps ? `${steps} ${steps === 1 ? 'step' : 'steps'}` : ''
  return [used, one.owner ? `only ${one.owner}` : ''].filter(Boolean).join(' · ')
}
async function saved(id: string | null): Promise<void> {
  await read()
  open.value = id
}
/** A text in a line of the list: where a field is filled in there are dots. */
const withoutTags = (text: string) => text.replace(/\{\{.*?\}\}/g, '…').replace(/\{%.*?%\}/g, '')
const KINDS: { value: TemplateKind; label: string }[] = [
  { value: 'email', label: 'Emails' },
  { value: 'snippet', label: 'Snippets' },
]
</script>

<template>
  <div class="page">
    <p class="dim small"><NuxtLink to="/cadences">Cadences</NuxtLink></p>
    <div class="spread mb-3">
      <div>
        <h1>Email templates</h1>
        <p class="dim">
          Write an email once and use it in steps, in bulk email and on the Desk. Change it here, and every step that
          uses it sends the new text.
        </p>
      </div>
      <v-btn color="primary" @click="open = 'new'">{{ kind === 'email' ? 'New template' : 'New snippet' }}</v-btn>
    </div>
    <div class="cols">
      <div>
        <p class="row tabs">
          <button
            v-for="one in KINDS"
            :key="one.value"
            class="plain"
            :class="{ on: kind === one.value }"
            :aria-pressed="kind === one.value"
            @click="show(one.value)"
          >
            {{ one.label }}
          </button>
        </p>
        <v-text-field v-if="(templates?.length ?? 0) > 8" v-model="search" label="Search" class="mb-2" />
        <p v-if="templates && !templates.length" class="dim small">
          {{
            archived
              ? 'Nothing is archived.'
              : kind === 'email'
                ? 'No email template yet. Write one here, or save the text of a step as a template.'
                : 'No snippet yet: a sentence or two that you write again and again, like how to find you.'
          }}
        </p>
        <section v-for="group in groups" :key="group.category">
          <h3 v-if="group.category || groups.length > 1" class="dim">{{ group.category || 'Without a category' }}</h3>
          <button
            v-for="one in group.templates"
            :key="one.id"
            class="plain item"
            :class="{ on: open === one.id }"
            :aria-current="open === one.id ? 'true' : undefined"
            @click="open = one.id"
          >
            <b>{{ one.name }}</b>
            <span class="dim small">{{ usage(one) }}</span>
            <span class="dim small cut">{{ withoutTags(one.subject || one.body) }}</span>
          </button>
        </section>
        <CheckBox v-model="archived" label="Show archived" class="mt-3" />
      </div>
      <LazyTemplateEditor v-if="open" :id="open" :key="open" :kind="kind" @saved="saved" />
      <p v-else class="panel dim">
        {{ templates?.length ? 'Choose one on the left.' : 'What you write here is kept once and used everywhere.' }}
      </p>
    </div>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  gap: 24px;
  align-items: start;
}
.tabs {
  gap: 18px;
  border-bottom: 1px solid var(--line);
  margin-bottom: 10px;
}
.tabs button {
  padding: 4px 0;
  color: var(--dim);
}
.tabs .on {
  color: var(--ink);
  box-shadow: inset 0 -2px var(--amber);
}
.item {
  display: grid;
  width: 100%;
  text-align: left;
  padding: 8px 10px;
  border-left: 2px solid transparent;
  border-bottom: 1px solid var(--line);
}
.item:hover,
.item.on {
  background: var(--card);
}
.item.on {
  border-left-color: var(--amber);
}
h3 {
  margin: 12px 0 2px;
}
@media (max-width: 760px) {
  .cols {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>

<script setup lang="ts">
import { computed } from 'vue'
import { useHead, useRoute } from '#imports'

/** The settings: a page per subject, and the list of them beside it. */
const route = useRoute()
const GROUPS = [
  {
    title: 'Team',
    pages: [
      { to: '/settings', label: 'Company' },
      { to: '/settings/users', label: 'Users' },
    ],
  },
  {
    title: 'Work',
    pages: [
      { to: '/settings/outcomes', label: 'Outcomes' },
      { to: '/settings/stages', label: 'Stages and gates' },
      { to: '/settings/deal-stages', label: 'Deal stages' },
      { to: '/settings/queue', label: 'Queue' },
      { to: '/settings/calls', label: 'Calls' },
      { to: '/settings/score', label: 'Score' },
      { to: '/settings/sending', label: 'Sending' },
      { to: '/settings/forms', label: 'Web forms' },
    ],
  },
  {
    title: 'Records',
    pages: [
      { to: '/settings/fields', label: 'Custom fields' },
      { to: '/settings/tags', label: 'Tags' },
      { to: '/settings/sources', label: 'Sources' },
    ],
  },
  {
    title: 'You',
    pages: [{ to: '/account', label: 'Your account and API keys' }],
  },
]
const here = computed(() => GROUPS.flatMap((group) => group.pages).find((page) => page.to === route.path))
useHead({ title: computed(() => (here.value ? `${here.value.label} · Settings` : 'Settings')) })
</script>

<template>
  <div class="page settings">
    <nav aria-label="Settings">
      <h1>Settings</h1>
      <template v-for="group in GROUPS" :key="group.title">
        <p class="dim small">{{ group.title }}</p>
        <NuxtLink
          v-for="page in group.pages"
          :key="page.to"
          :to="page.to"
          :class="{ on: page.to === route.path }"
          :aria-current="page.to === route.path ? 'page' : undefined"
          >{{ page.label }}</NuxtLink
        >
      </template>
    </nav>
    <div class="one"><NuxtPage /></div>
  </div>
</template>

<style scoped>
.settings {
  display: grid;
  grid-template-columns: 190px minmax(0, 1fr);
  gap: 32px;
  align-items: start;
}
nav {
  position: sticky;
  top: 66px;
  display: grid;
  gap: 2px;
}
nav p {
  margin: 14px 0 2px;
}
nav a {
  padding: 5px 10px;
  border-radius: 6px;
  color: var(--ink);
  text-decoration: none;
}
nav a:hover {
  background: var(--card);
}
nav a.on {
  background: var(--card);
  box-shadow: inset 3px 0 var(--amber);
  font-weight: 600;
}
@media (max-width: 760px) {
  .settings {
    grid-template-columns: minmax(0, 1fr);
    gap: 16px;
  }
  nav {
    position: static;
    display: flex;
    flex-wrap: wrap;
    align-items: center;
  }
  nav h1 {
    width: 100%;
  }
  nav p {
    display: none;
  }
  .one {
    overflow-x: auto;
  }
}
</style>

<script setup lang="ts">
/** The sign of a kind of step or touch, the same wherever one is drawn. */
defineProps<{ kind: string; size?: number; color?: string }>()
const PATHS: Record<string, string> = {
  call: 'M6 3h4l2 5-3 2a12 12 0 0 0 5 5l2-3 5 2v4a2 2 0 0 1-2 2A17 17 0 0 1 4 5z',
  first_contact: 'M6 3h4l2 5-3 2a12 12 0 0 0 5 5l2-3 5 2v4a2 2 0 0 1-2 2A17 17 0 0 1 4 5z',
  call_back:
    'M6 3h4l2 5-3 2a12 12 0 0 0 5 5l2-3 5 2v4a2 2 0 0 1-2 2A17 17 0 0 1 4 5zM14 3v6h6l-2.2-2.2L21 3.6 19.4 2 16.2 5.2z',
  email: 'M3 6l9 6 9-6v12H3zM3 6h18l-9 5.5z',
  check_mail: 'M3 6l9 6 9-6v12H3zM3 6h18l-9 5.5z',
  reply: 'M4 5h16v11H9l-5 5z',
  task: 'M4 4h16v16H4zM7 12l3.5 3.5L17 9',
  follow_up: 'M12 3a9 9 0 1 0 9 9h-3a6 6 0 1 1-6-6v4l6-5.5L12 0z',
  branch: 'M5 2h4v7l3 3 3-3V2h4v9l-5 5v6h-4v-6l-5-5z',
  text: 'M6 2h12v20H6zM8 5v12h8V5z',
  social: 'M8 4a4 4 0 1 1 0 8 4 4 0 0 1 0-8zM1 20c0-4 3-7 7-7s7 3 7 7zM16 3h7v6h-3l-4 3z',
  visit: 'M12 2 3 11v10h6v-6h6v6h6V11z',
  meeting: 'M5 21V3l14 5-11 4v9z',
  meeting_result: 'M5 21V3l14 5-11 4v9z',
}
</script>

<template>
  <svg
    :width="size ?? 18"
    :height="size ?? 18"
    viewBox="0 0 24 24"
    :fill="kind === 'task' ? 'none' : (color ?? 'currentColor')"
    :stroke="kind === 'task' ? (color ?? 'currentColor') : 'none'"
    stroke-width="2.4"
    aria-hidden="true"
  >
    <path :d="PATHS[kind] ?? PATHS.task" />
  </svg>
</template>

<style scoped>
svg {
  flex: none;
}
</style>

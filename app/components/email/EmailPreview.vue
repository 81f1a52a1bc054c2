<script setup lang="ts">
/** An email as its reader gets it. Its HTML is the server’s: nothing but an email’s text is in it. */
defineProps<{ email: { subject: string; body: string; html: string | null } }>()
</script>

<template>
  <div class="letter">
    <b>{{ email.subject || '(no subject)' }}</b>
    <!-- eslint-disable-next-line vue/no-v-html -->
    <div v-if="email.html" class="text" v-html="email.html" />
    <p v-else class="pre">{{ email.body }}</p>
  </div>
</template>

<style scoped>
.letter {
  background: #fff;
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 14px 16px;
  min-height: 120px;
  display: grid;
  gap: 10px;
  align-content: start;
}
.text :deep(p) {
  margin: 0 0 10px;
}
.text :deep(ul),
.text :deep(ol) {
  padding-left: 22px;
  margin: 0 0 10px;
}
.text :deep(img) {
  max-width: 100%;
}
.text :deep(a) {
  color: var(--pine);
}
</style>

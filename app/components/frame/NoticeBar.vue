<script setup lang="ts">
import { useNotices } from '~/stores/notices'

const store = useNotices()
function act(notice: (typeof store.notices)[number]): void {
  notice.act?.run()
  store.drop(notice.id)
}
</script>

<template>
  <div class="bar" role="status" aria-live="polite">
    <div v-for="notice in store.notices" :key="notice.id" class="one" :class="notice.tone">
      <span class="grow">{{ notice.text }}</span>
      <button v-if="notice.act" class="plain act" @click="act(notice)">
        {{ notice.act.label }} <kbd v-if="notice.act.key">{{ notice.act.key }}</kbd>
      </button>
      <button class="plain" aria-label="Close this message" @click="store.drop(notice.id)">✕</button>
    </div>
  </div>
</template>

<style scoped>
.bar {
  position: fixed;
  left: 50%;
  bottom: 16px;
  transform: translateX(-50%);
  z-index: 3000;
  display: grid;
  gap: 6px;
  width: min(680px, calc(100vw - 32px));
  pointer-events: none;
}
.one {
  pointer-events: auto;
  display: flex;
  gap: 14px;
  align-items: center;
  background: var(--ink);
  color: #fffdf8;
  border-radius: 8px;
  padding: 9px 14px;
}
.one.wrong {
  background: var(--clay-deep);
}
.act {
  font-weight: 650;
  text-decoration: underline;
  white-space: nowrap;
}
</style>

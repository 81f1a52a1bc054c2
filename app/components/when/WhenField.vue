<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import { sayWhen } from '#shared/api/desk/desk'
import { call, messageOf } from '~/api/call'
import { useTimes } from '~/composables/times'
import { useSession } from '~/stores/session'

/**
 * Says when: chips that make sense now, and a line that reads "tue 2:30". What was read is said back in both clocks,
 * with the holiday or the hour that does not fit. A call or meeting is read in the person's clock, a task in one's own.
 */
const props = defineProps<{
  kind: 'call' | 'meeting' | 'task'
  prospectId: string | null
  /** Where the person is; null for work that concerns nobody. */
  timeZone: string | null
  label?: string
  /** Has the cursor when it opens. */
  begin?: boolean
}>()
const at = defineModel<number | null>({ required: true })
const session = useSession()
const times = useTimes()
type Read = z.output<typeof sayWhen.response>
const text = ref('')
const read = shallowRef<Read | null>(null)
const failed = ref('')
const theirs = ref(props.kind !== 'task')
const input = ref<HTMLInputElement | null>(null)
const differ = computed(() => props.timeZone !== null && props.timeZone !== session.timeZone)
const clock = computed(() => (differ.value && theirs.value ? props.timeZone! : session.timeZone))

let asked = 0
let asking: Promise<void> = Promise.resolve()
/** Asks what was typed or picked means; the last question counts. */
function ask(picked: number | null): Promise<void> {
  const mine = ++asked
  const body = {
    prospectId: props.prospectId,
    kind: props.kind,
    timeZone: clock.value,
    text: picked === null ? text.value.trim() || null : null,
    at: picked,
  }
  asking = call(sayWhen, { body }).then(
    (answer) => {
      if (mine !== asked) return
      read.value = answer
      failed.value = ''
      at.value = answer.at
    },
    (error) => {
      if (mine !== asked) return
      failed.value = messageOf(error, 'This could not be read')
      at.value = null
    },
  )
  return asking
}
const { isPending: isTyped, start: askSoon, stop: askNot } = useTimeoutFn(() => ask(null), 120, { immediate: false })
function typed(): void {
  at.value = null
  askSoon()
}
function pick(chip: Read['chips'][number]): void {
  askNot()
  text.value = ''
  at.value = chip.at
  void ask(chip.at)
  input.value?.focus()
}
function turn(): void {
  theirs.value = !theirs.value
  if (text.value.trim()) void ask(null)
}
/** Waits until what was typed last has been read; gives the moment, or null where there is none. */
async function settle(): Promise<number | null> {
  if (isTyped.value) {
    askNot()
    void ask(null)
  }
  for (let seen = -1; seen !== asked;) {
    seen = asked
    await asking
  }
  if (at.value === null && !failed.value && !read.value?.error) failed.value = 'Enter a date and time'
  return at.value
}
watch(
  () => [props.prospectId, props.kind, props.timeZone],
  () => void ask(null),
)
onMounted(() => {
  if (props.begin) input.value?.focus()
  void ask(at.value)
})
defineExpose({ settle, focus: () => input.value?.focus() })
const error = computed(() => failed.value || (text.value.trim() ? (read.value?.error ?? '') : ''))
const id = `when-${Math.random().toString(36).slice(2)}`
</script>

<template>
  <div class="when">
    <label :for="id"
      >{{ label ?? 'When'
      }}<button
        v-if="differ"
        type="button"
        class="plain turn"
        :aria-label="`Read in ${theirs ? 'their' : 'your'} clock. Change to ${theirs ? 'yours' : 'theirs'}`"
        @click="turn"
      >
        {{ theirs ? `their time, ${times.zoneName(timeZone!)}` : 'your time' }}
      </button></label
    >
    <input
      :id="id"
      ref="input"
      v-model="text"
      placeholder="tue 2:30 · 12/1 9a · in 3 weeks"
      autocomplete="off"
      maxlength="100"
      :aria-invalid="Boolean(error)"
      :aria-describedby="`${id}-said`"
      @input="typed"
    />
    <div class="chips">
      <button
        v-for="chip in read?.chips ?? []"
        :key="chip.at"
        type="button"
        class="plain chip"
        :class="{ pine: at === chip.at }"
        :aria-pressed="at === chip.at"
        @click="pick(chip)"
      >
        {{ chip.label }}
      </button>
    </div>
    <p :id="`${id}-said`" class="said" aria-live="polite">
      <span v-if="error" class="wrong">{{ error }}</span>
      <template v-else-if="read?.at">
        <b class="num">{{ read.mine }}</b><template v-if="read.theirs">
          your time · <b class="num">{{ read.theirs }}</b> theirs</template
        >
        <span v-for="warning in read.warnings" :key="warning" class="warn">{{ warning }}</span>
      </template>
    </p>
  </div>
</template>

<style scoped>
.when {
  display: grid;
  gap: 5px;
  min-width: 0;
}
label {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  font-size: 12.5px;
  color: var(--dim);
}
.turn {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
  color: var(--slate);
  font-size: 12.5px;
}
input {
  font-size: 14px;
  width: 100%;
  min-width: 0;
}
.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.chip {
  padding: 2px 8px;
  min-height: 24px;
  font-size: 12.5px;
  background: var(--shade);
}
.chip.pine {
  background: var(--pine-soft);
}
.chip:hover {
  background: var(--pine-soft);
}
.said {
  min-height: 20px;
  font-size: 12.5px;
  line-height: 1.4;
}
.said b {
  font-weight: 600;
}
.wrong {
  color: var(--clay-deep);
}
.warn {
  display: block;
  color: var(--amber-deep);
}
</style>

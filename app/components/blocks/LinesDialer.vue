<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed, onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import type { z } from 'zod'
import { LINE_STATUSES, capitalized } from '#core/enumerations'
import { dialLines } from '#shared/api/blocks/lines'
import { ApiError, call, messageOf } from '~/api/call'
import { playTone } from '~/components/frame/ringTone'
import { stopwatch } from '~/composables/times'
import { useBlockChanges } from './blockChanges'
import { useSession } from '~/stores/session'

/**
 * Several lines of a call block: dials while the caller waits, shows what rings and how the last calls ended, and says
 * when the caller was put through.
 */
type Answer = z.output<typeof dialLines.response>
const props = defineProps<{ block: { id: string; lines: number; open: number } }>()
/** Whether lines are dialed for the caller. */
const on = defineModel<boolean>('on', { required: true })
const emit = defineEmits<{ connected: [call: NonNullable<Answer['call']> | null] }>()
const session = useSession()
const state = shallowRef<Answer | null>(null)
const problem = ref('')
let asking = false
/** Whether it is to be asked once more when the answer is there. */
let again = false

async function ask(): Promise<void> {
  if (asking) {
    again = true
    return
  }
  asking = true
  again = false
  const wanted = on.value
  const before = { call: state.value?.call?.id ?? null, on: state.value?.on ?? false }
  try {
    const answer = await call(dialLines, { params: { id: props.block.id }, body: { on: wanted } })
    problem.value = ''
    state.value = answer
    if (wanted && on.value && !answer.on) {
      // The block was closed, or the caller went on in another window.
      on.value = false
      problem.value = 'Dialing has stopped.'
    }
    const isOther = (answer.call?.id ?? null) !== before.call
    if (isOther && answer.call) playTone()
    if (isOther || answer.on !== before.on) emit('connected', answer.call)
  } catch (error) {
    problem.value = messageOf(error, 'The dialer could not be reached')
    if (error instanceof ApiError && error.code === 'refused') on.value = false
  }
  asking = false
  if (again || on.value !== wanted) void ask()
}
useIntervalFn(() => {
  // What rings when the caller stops is looked after until it is over.
  if (on.value || state.value?.ringing.length) void ask()
}, 800)
watch(on, () => void ask())
useBlockChanges(props.block.id, () => {
  if (on.value) void ask()
})
onBeforeUnmount(() => {
  if (on.value) void call(dialLines, { params: { id: props.block.id }, body: { on: false } }).catch(() => {})
})
const waiting = computed(() => on.value && !state.value?.call)
const said = computed(() => {
  const count = state.value?.ringing.length ?? 0
  if (state.value?.call) return 'You are on the line. Dialing goes on when the outcome is logged.'
  if (!count) return 'Nobody is dialed right now.'
  return `${count} ${count === 1 ? 'line' : 'lines'} ringing. The first person who answers is put through to you.`
})
/** Why nothing rings. */
const nobody = computed(() => {
  if (!props.block.open) return 'Everyone in this block has been called.'
  const left = props.block.open === 1 ? '1 person is left' : `${props.block.open.toLocaleString()} people are left`
  return `${left}: outside their calling hours, or with another caller or dialer.`
})
const toggle = () => {
  on.value = !on.value
}
/** The outcome was logged: the next lines are dialed at once. */
const goOn = () => void ask()
defineExpose({ toggle, goOn })
</script>

<template>
  <section class="lines" :class="{ grow: waiting }" aria-label="Several lines">
    <div class="bar">
      <v-btn size="small" :color="on ? undefined : 'primary'" :variant="on ? 'outlined' : 'flat'" @click="toggle"
        >{{ on ? 'Stop dialing' : `Dial up to ${block.lines} lines` }} <kbd class="ml-2">G</kbd></v-btn
      >
      <span v-if="on" class="small" role="status">{{ said }}</span>
      <span v-else class="dim small">Or call the person below yourself.</span>
      <span v-if="problem" class="small clay" role="alert">{{ problem }}</span>
    </div>
    <div v-if="waiting && state" class="two">
      <div>
        <h2>Ringing</h2>
        <p v-if="!state.ringing.length" class="dim">{{ nobody }}</p>
        <ul>
          <li v-for="one in state.ringing" :key="one.id" class="spread">
            <span class="cut"
              ><b>{{ one.name }}</b> <span class="dim small ml-2">{{ one.company }}</span></span
            ><span class="num">{{ stopwatch(session.now - one.startedAt) }}</span>
          </li>
        </ul>
      </div>
      <div>
        <h2>Last calls</h2>
        <p v-if="!state.last.length" class="dim">None yet.</p>
        <ul>
          <li v-for="one in state.last" :key="one.id" class="spread">
            <span class="cut"
              >{{ one.name }} <span class="dim small ml-2">{{ one.company }}</span></span
            ><span class="small" :class="{ clay: one.status === 'abandoned' }">{{
              capitalized(LINE_STATUSES[one.status])
            }}</span>
          </li>
        </ul>
      </div>
    </div>
  </section>
</template>

<style scoped>
.lines {
  background: var(--card);
  border-bottom: 1px solid var(--line);
}
.lines.grow {
  flex: 1;
  overflow-y: auto;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  padding: 8px 16px;
}
.clay {
  color: var(--clay-deep);
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 36px;
  padding: 10px 16px;
  max-width: 1000px;
}
ul {
  list-style: none;
  padding: 0;
}
li {
  border-top: 1px solid var(--line);
  padding: 7px 2px;
  gap: 12px;
}
@media (max-width: 760px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>

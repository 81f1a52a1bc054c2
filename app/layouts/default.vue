<script setup lang="ts">
import { useEventListener, useTimeout } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { navigateTo, useRoute } from '#imports'
import { useChanges } from '~/api/changes'
import { useFocusReturn } from '~/composables/focus'
import { isTyping, takeCharacter } from '~/composables/keys'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'
import { useTimes } from '~/composables/times'

const session = useSession()
useChanges('notifications', () => void (session.user && session.refresh().catch(() => {})), { seconds: 30 })
useFocusReturn()
const notices = useNotices()
const times = useTimes()
const finding = ref(false)
/** The search, and the calls that ring, are fetched once the first screen stands. */
const isSettled = useTimeout(3_000)
const findReady = ref(false)
/** What is typed for the search while it is fetched; each time it is opened it begins empty. */
const typedEarly = ref('')
watch(finding, (now) => {
  if (now) typedEarly.value = ''
})
function takeEarly(event: KeyboardEvent): void {
  if (finding.value && !findReady.value) typedEarly.value += takeCharacter(event) ?? ''
}
useEventListener('keydown', takeEarly, true)
const keysShown = ref(false)
const adding = ref(false)
/** Once it was opened it stays, with what was typed there. */
const everAdded = ref(false)
watch(adding, (now) => {
  everAdded.value ||= now
})
/** What the line of the person who is added begins with. */
const begin = ref('')
function add(line: string): void {
  begin.value = line
  adding.value = true
}
const route = useRoute()
// A link may lead to adding someone, by their number.
watch(
  () => route.query.add,
  (line) => {
    if (typeof line === 'string' && line && !session.onlyCalls) add(line)
  },
  { immediate: true },
)
const moving = ref(false)
const OF_CALLERS = new Set(['/', '/blocks'])
const places = computed(() => allPlaces.value.filter(({ to }) => !session.onlyCalls || OF_CALLERS.has(to)))
const allPlaces = computed<{ to: string; label: string; also?: string[] }[]>(() => [
  { to: '/', label: 'Desk' },
  { to: '/prospects', label: 'Prospects', also: ['/companies', '/duplicates'] },
  { to: '/cadences', label: 'Cadences', also: ['/templates', '/email-queue'] },
  { to: '/blocks', label: 'Call blocks' },
  { to: '/deals', label: 'Deals' },
  { to: '/team', label: session.manages ? 'Team' : 'My week', also: ['/calls'] },
  { to: '/imports', label: 'Imports' },
  { to: '/settings', label: 'Settings' },
])

async function forward(by: 'hour' | 'day' | 'step'): Promise<void> {
  moving.value = true
  try {
    await session.forward(by)
    window.dispatchEvent(new Event('world-moved'))
    notices.say(`It is ${times.moment(session.now)}. Everything due until then has happened.`)
  } catch (error) {
    notices.error(error)
  }
  moving.value = false
}
async function leave(): Promise<void> {
  await session.leave().catch(notices.error)
  await navigateTo('/sign-in')
}
function listen(event: KeyboardEvent): void {
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k' && !session.onlyCalls) {
    event.preventDefault()
    finding.value = true
  }
  if (event.key === '?' && !isTyping(event)) keysShown.value = !keysShown.value
}
useEventListener('keydown', listen)
</script>

<template>
  <div class="frame">
    <a class="skip" href="#work">Skip to content</a>
    <header>
      <NuxtLink to="/" class="mark" aria-label="Uphill"
        ><img src="/mark.svg" width="22" alt="" /><span class="roomy">Uphill</span></NuxtLink
      >
      <nav aria-label="Screens">
        <NuxtLink
          v-for="place in places"
          :key="place.to"
          :to="place.to"
          :class="{
            on:
              place.to === '/'
                ? $route.path === '/'
                : [place.to, ...(place.also ?? [])].some((path) => $route.path.startsWith(path)),
          }"
          >{{ place.label }}</NuxtLink
        >
      </nav>
      <span v-if="session.onlyCalls" class="grow" />
      <button v-else class="plain find" @click="finding = true">
        <span>Find or do anything</span> <kbd>Ctrl K</kbd>
      </button>
      <NuxtLink v-if="session.problems && !session.onlyCalls" to="/problems" class="chip clay num"
        >{{ session.problems.toLocaleString() }} {{ session.problems === 1 ? 'problem' : 'problems' }}</NuxtLink
      >
      <v-btn v-if="!session.onlyCalls" size="small" variant="outlined" aria-label="Add person" @click="add('')"
        >Add<span class="roomy">&nbsp;person</span></v-btn
      >
      <NotificationMenu v-if="session.user" />
      <v-menu v-if="session.clock?.movable && !session.onlyCalls">
        <template #activator="{ props }">
          <button
            v-bind="props"
            class="plain clock num"
            :disabled="moving"
            :aria-label="`Demo clock, ${times.moment(session.now)}`"
          >
            <span class="small">{{ moving ? 'moving' : 'demo clock' }}</span>{{ times.day(session.now) }},
            {{ times.clock(session.now) }}
          </button>
        </template>
        <v-list>
          <v-list-item title="An hour later" @click="forward('hour')" />
          <v-list-item title="A day later" @click="forward('day')" />
          <v-list-item title="On to the next step" @click="forward('step')" />
          <v-list-item
            v-if="session.demo?.mailboxUrl"
            title="Recipients’ mailbox"
            :href="session.demo.mailboxUrl"
            target="_blank"
          />
          <v-list-item
            v-if="session.demo?.telephonesUrl"
            title="Recipients’ phones (calls)"
            :href="session.demo.telephonesUrl"
            target="_blank"
          />
        </v-list>
      </v-menu>
      <v-menu>
        <template #activator="{ props }"
          ><button v-bind="props" class="plain me">{{ session.user?.name }}</button></template
        >
        <v-list>
          <v-list-item title="Keys of this screen" @click="keysShown = true"
            ><template #append><kbd>?</kbd></template></v-list-item
          >
          <v-list-item v-if="!session.onlyCalls" title="Problems" to="/problems"
            ><template v-if="session.problems" #append
              ><span class="chip clay num">{{ session.problems }}</span></template
            ></v-list-item
          >
          <v-list-item title="Your account" to="/account" />
          <v-list-item title="Sign out" @click="leave" />
        </v-list>
      </v-menu>
    </header>
    <main id="work" tabindex="-1"><slot /></main>
    <LazyFindAnything
      v-if="finding || findReady || isSettled"
      v-model="finding"
      :begin="typedEarly"
      @add="add"
      @ready="findReady = true"
    />
    <LazyAddPerson v-if="adding || everAdded" v-model="adding" :begin="begin" />
    <LazyIncomingCalls v-if="isSettled && session.incomingCalls && session.user" @add="add" />
    <LazyScreenKeys v-if="keysShown" v-model="keysShown" />
  </div>
</template>

<style scoped>
.frame {
  min-height: 100vh;
  display: flex;
  flex-direction: column;
}
.skip {
  position: absolute;
  left: -999px;
}
.skip:focus {
  left: 8px;
  top: 8px;
  background: var(--card);
  padding: 6px 10px;
  z-index: 10;
}
header {
  display: flex;
  align-items: center;
  height: 46px;
  padding: 0 16px;
  gap: 16px;
  border-bottom: 1px solid var(--line);
  background: var(--paper);
  position: sticky;
  top: 0;
  z-index: 5;
}
.mark {
  font-weight: 700;
  font-size: 17px;
  display: flex;
  gap: 7px;
  align-items: center;
  text-decoration: none;
}
nav {
  display: flex;
  gap: 16px;
  flex: 0 1 auto;
  min-width: 0;
  overflow-x: auto;
  scrollbar-width: none;
}
nav a {
  white-space: nowrap;
  color: var(--dim);
  font-weight: 520;
  text-decoration: none;
  padding: 12px 0;
}
nav a.on {
  color: var(--ink);
  box-shadow: inset 0 -2px var(--amber);
}
.find {
  margin-left: auto;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--card);
  padding: 5px 10px;
  color: var(--dim);
  flex: 0 100 216px;
  min-width: 76px;
  display: flex;
  justify-content: space-between;
  gap: 6px;
  white-space: nowrap;
  overflow: hidden;
}
.find span {
  overflow: hidden;
  text-overflow: ellipsis;
}
.clock {
  display: grid;
  line-height: 1.15;
  text-align: right;
  font-weight: 550;
  white-space: nowrap;
}
.clock span {
  color: var(--amber-deep);
  font-weight: 500;
}
.me {
  font-weight: 520;
  white-space: nowrap;
}
main {
  flex: 1;
  min-height: 0;
  outline: none;
}
@media (max-width: 1320px) {
  header {
    gap: 12px;
  }
  nav {
    gap: 13px;
  }
}
/* Every screen has its place in the bar from 1024 px up. */
@media (max-width: 1240px) {
  header {
    gap: 8px;
    padding: 0 10px;
  }
  nav {
    gap: 10px;
  }
  .roomy {
    display: none;
  }
  .find {
    flex-basis: auto;
  }
  .find span {
    display: none;
  }
}
@media (max-width: 760px) {
  header {
    height: auto;
    flex-wrap: wrap;
    gap: 6px 12px;
    padding: 6px 12px;
  }
  nav {
    order: 5;
    width: 100%;
    overflow-x: auto;
  }
  nav a {
    padding: 6px 0;
  }
}
</style>

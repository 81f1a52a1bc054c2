<script setup lang="ts">
import { ref, shallowRef } from 'vue'
import type { z } from 'zod'
import { addTag, listTags, mergeTag, removeTag, renameTag } from '#shared/api/settings/fields'
import { ApiError, call } from '~/api/call'
import { useNotices } from '~/stores/notices'
import { useSession } from '~/stores/session'

/** The tags there are: made, renamed, merged and removed. */
type Tag = z.output<typeof listTags.response>['tags'][number]
const session = useSession()
const notices = useNotices()
const tags = shallowRef<Tag[]>([])
const fresh = ref('')
const open = ref<{ id: string; act: 'rename' | 'merge' | 'remove' } | null>(null)
const name = ref('')
const into = ref('')
const formError = ref('')

async function read(): Promise<void> {
  tags.value = (await call(listTags)).tags
}
async function act(work: () => Promise<string>): Promise<void> {
  formError.value = ''
  try {
    notices.say(await work())
    open.value = null
    await read()
  } catch (error) {
    if (error instanceof ApiError) formError.value = error.message
    else throw error
  }
}
const make = () =>
  act(async () => {
    const { known } = await call(addTag, { body: { name: fresh.value } })
    const response = known ? `“${fresh.value}” already exists.` : `“${fresh.value}” created.`
    fresh.value = ''
    return response
  })
function start(tag: Tag, what: 'rename' | 'merge' | 'remove'): void {
  open.value = { id: tag.id, act: what }
  name.value = tag.name
  into.value = ''
  formError.value = ''
}
const people = (count: number) => `${count} ${count === 1 ? 'person' : 'people'}`
function confirm(tag: Tag): Promise<void> {
  return act(async () => {
    const params = { id: tag.id }
    if (open.value!.act === 'rename') {
      return call(renameTag, { params, body: { name: name.value } }).then(() => `Renamed to “${name.value}”.`)
    }
    if (open.value!.act === 'merge') {
      return call(mergeTag, { params, body: { into: into.value } }).then(
        (done) => `${people(done.people)} moved; lists that used it use the other tag.`,
      )
    }
    return call(removeTag, { params }).then((done) => `“${tag.name}” is removed from ${people(done.people)}.`)
  })
}
// The settings wait until all their tables are there, so that nothing moves.
await read().catch(notices.error)
</script>

<template>
  <section>
    <h2>Tags</h2>
    <p class="dim mb-2">Tags group prospects. Any user can add one; managers rename, merge and delete them.</p>
    <form class="row mb-2" @submit.prevent="make">
      <v-text-field v-model="fresh" label="A new tag" maxlength="60" style="max-width: 260px" /><v-btn
        type="submit"
        variant="outlined"
        size="small"
        :disabled="!fresh.trim()"
        >Create</v-btn
      >
    </form>
    <p v-if="formError" class="notice clay mb-2" role="alert">{{ formError }}</p>
    <table class="sheet">
      <tbody>
        <tr v-for="tag in tags" :key="tag.id">
          <td>
            <b>{{ tag.name }}</b>
          </td>
          <td class="num dim">{{ people(tag.people) }}</td>
          <td v-if="session.manages" class="acts">
            <form v-if="open?.id === tag.id" class="row" @submit.prevent="confirm(tag)">
              <v-text-field
                v-if="open.act === 'rename'"
                v-model="name"
                v-focus
                label="New name"
                maxlength="60"
                style="max-width: 220px"
              />
              <v-select
                v-else-if="open.act === 'merge'"
                v-model="into"
                label="Into"
                :items="tags.filter((other) => other.id !== tag.id)"
                item-title="name"
                item-value="id"
                style="max-width: 220px"
              />
              <v-btn
                type="submit"
                size="small"
                :color="open.act === 'remove' ? 'error' : 'primary'"
                :disabled="open.act === 'merge' && !into"
                >{{
                  open.act === 'rename'
                    ? 'Rename'
                    : open.act === 'merge'
                      ? `Merge, ${people(tag.people)} move`
                      : `Remove from ${people(tag.people)}`
                }}</v-btn><button type="button" class="link small" @click="open = null">Cancel</button>
            </form>
            <template v-else
              ><button class="link small" :aria-label="`Rename ${tag.name}`" @click="start(tag, 'rename')">
                Rename
              </button>
              <button class="link small" :aria-label="`Merge ${tag.name}`" @click="start(tag, 'merge')">Merge</button>
              <button class="link small" :aria-label="`Remove ${tag.name}`" @click="start(tag, 'remove')">
                Remove
              </button></template
            >
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="!tags.length" class="dim">There are none yet.</p>
  </section>
</template>

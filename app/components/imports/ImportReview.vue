<script setup lang="ts">
import type { Import } from '#shared/api/imports'

/** What a file would do: how many rows are new, known, merged and invalid; what was dropped, cleaned up and is new. */
defineProps<{ counts: Partial<NonNullable<Import['counts']>>; importId: string; ofCompanies: boolean }>()
const show = (count: number | undefined) => (count ?? 0).toLocaleString('en-US')
</script>

<template>
  <div>
    <div class="sums">
      <div>
        <strong class="num">{{ show(counts.fresh) }}</strong>new
      </div>
      <div>
        <strong class="num">{{ show(counts.known) }}</strong>existing<small class="dim">{{
          ofCompanies ? 'same website, or same name' : 'same address, number, or name at the same company'
        }}</small>
      </div>
      <div>
        <strong class="num">{{ show(counts.merged) }}</strong>merged<small class="dim"
          >the same {{ ofCompanies ? 'company' : 'person' }} twice in the file</small
        >
      </div>
      <div :class="{ clay: counts.invalid }">
        <strong class="num">{{ show(counts.invalid) }}</strong>invalid<small
          v-for="reason in counts.reasons"
          :key="reason.reason"
          >{{ show(reason.count) }} × {{ reason.reason }}</small
        ><a v-if="counts.invalid" class="link small" :href="`/api/imports/${importId}/invalid.csv`" download
          >Download them with the reason</a
        >
      </div>
    </div>
    <div v-if="counts.dropped" class="notice mt-3">
      <b class="num">{{ show(counts.dropped) }}</b> {{ counts.dropped === 1 ? 'row is' : 'rows are' }} imported without
      a cell that could not be read:
      <span v-for="(reason, index) in counts.droppedReasons" :key="reason.reason"
        >{{ index ? ', ' : '' }}{{ show(reason.count) }} × {{ reason.reason }}</span
      >. <a class="link" :href="`/api/imports/${importId}/invalid.csv`" download>Download them</a>
    </div>
    <p v-if="counts.renamed" class="notice pine mt-3">
      <b class="num">{{ show(counts.renamed) }}</b> {{ counts.renamed === 1 ? 'name is' : 'names are' }} cleaned up, so
      that emails can greet people by name:
      <span v-for="(one, index) in counts.renames" :key="one.was"
        >{{ index ? '; ' : '' }}{{ one.was }} → <b>{{ one.is }}</b></span
      >{{
        (counts.renamed ?? 0) > (counts.renames?.length ?? 0)
          ? `; and ${show((counts.renamed ?? 0) - (counts.renames?.length ?? 0))} more`
          : ''
      }}. The file’s version stays in the activity. To keep names as written, go back to the columns.
    </p>
    <p v-if="counts.news?.length" class="notice mt-3">
      Also adds
      <span v-for="(one, index) in counts.news" :key="one.kind"
        >{{ index ? '; ' : '' }}<b class="num">{{ show(one.count) }}</b> new {{ one.kind
        }}{{ one.count === 1 ? '' : 's' }}: {{ one.names.join(', ')
        }}{{ one.count > one.names.length ? ', …' : '' }}</span
      >. If one is a misspelling, change the file or the columns first.
    </p>
  </div>
</template>

<style scoped>
.sums {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 18px;
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  padding: 14px 0;
}
.sums div {
  display: grid;
  align-content: start;
}
.sums strong {
  font-size: 26px;
  line-height: 1.2;
}
.clay strong {
  color: var(--clay-deep);
}
@media (max-width: 700px) {
  .sums {
    grid-template-columns: 1fr 1fr;
  }
}
</style>

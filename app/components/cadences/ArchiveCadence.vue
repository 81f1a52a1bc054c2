<script setup lang="ts">
/** Asks what happens to those in a cadence that is archived. */
const open = defineModel<boolean>({ required: true })
defineProps<{ name: string; people: number }>()
const emit = defineEmits<{ archive: [people: 'finish' | 'leave'] }>()
</script>

<template>
  <v-dialog v-model="open" max-width="440" aria-label="Archive the cadence">
    <v-card class="pa-5"
      ><h2>Archive “{{ name }}”</h2>
      <p class="my-3">
        {{
          people
            ? `${people.toLocaleString('en-US')} ${people === 1 ? 'prospect is' : 'prospects are'} in it.`
            : 'Nobody is in it.'
        }}
        No one else can be enrolled in it.
      </p>
      <div class="row wrap">
        <v-btn color="primary" @click="emit('archive', 'finish')">{{
          people ? 'Archive, let them finish' : 'Archive'
        }}</v-btn><v-btn v-if="people" variant="outlined" @click="emit('archive', 'leave')"
          >Archive and remove them</v-btn
        ><v-btn variant="text" @click="open = false">Cancel</v-btn>
      </div></v-card
    >
  </v-dialog>
</template>

<style scoped>
.wrap {
  flex-wrap: wrap;
}
</style>

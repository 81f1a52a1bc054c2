import {
  mdiCheckboxBlankOutline,
  mdiCheckboxMarked,
  mdiChevronDown,
  mdiClose,
  mdiCloseCircle,
  mdiMinusBox,
  mdiRadioboxBlank,
  mdiRadioboxMarked,
} from '@mdi/js'
import { mdi } from 'vuetify/iconsets/mdi-svg'
import { defineNuxtPlugin } from '#app'

/** The icons that the controls we use are drawn with; the full set of names would be loaded with the first screen. */
export default defineNuxtPlugin({
  order: -26,
  setup: (nuxt) => {
    nuxt.hook('vuetify:configuration', ({ vuetifyOptions }) => {
      const icons = {
        defaultSet: 'mdi',
        sets: { mdi },
        aliases: {
          checkboxIndeterminate: mdiMinusBox,
          checkboxOff: mdiCheckboxBlankOutline,
          checkboxOn: mdiCheckboxMarked,
          clear: mdiCloseCircle,
          close: mdiClose,
          delete: mdiCloseCircle,
          dropdown: mdiChevronDown,
          radioOff: mdiRadioboxBlank,
          radioOn: mdiRadioboxMarked,
        },
      }
      // Compared as types, the two are too deep for the compiler.
      Object.assign(vuetifyOptions, { icons })
    })
  },
})

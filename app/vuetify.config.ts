import { defineVuetifyConfiguration } from 'vuetify-nuxt-module/custom-configuration'

/** A field is a line to write on, its label small above it, its error below (assets/fields.css). */
const FIELD = {
  variant: 'underlined',
  density: 'compact',
  hideDetails: 'auto',
  color: 'warning',
  active: true,
} as const

/** Menus and dialogs are there at once: what is clicked while one grows is not taken. */
const AT_ONCE = { transition: false } as const

/** Vuetify as the engine of controls, in our own paper, ink and pine. */
export default defineVuetifyConfiguration({
  theme: {
    defaultTheme: 'day',
    themes: {
      day: {
        dark: false,
        colors: {
          background: '#F7F4EC',
          surface: '#FFFDF8',
          primary: '#1E5B4C',
          secondary: '#3F5F80',
          error: '#A83F27',
          warning: '#C66A12',
          info: '#3F5F80',
          success: '#1E5B4C',
          'on-background': '#1F2B27',
          'on-surface': '#1F2B27',
        },
        variables: { 'border-color': '#DDD6C6', 'border-opacity': 1, 'medium-emphasis-opacity': 0.78 },
      },
    },
  },
  icons: { defaultSet: 'custom' },
  defaults: {
    global: { ripple: false },
    VBtn: { variant: 'flat', density: 'default', rounded: 'md', style: 'text-transform: none; font-weight: 550' },
    VTextField: FIELD,
    VTextarea: FIELD,
    VCombobox: { ...FIELD, ...AT_ONCE },
    VSelect: { ...FIELD, ...AT_ONCE },
    VAutocomplete: { ...FIELD, ...AT_ONCE },
    VRadioGroup: { density: 'compact', hideDetails: 'auto', color: 'primary' },
    VList: { density: 'compact' },
    VCard: { elevation: 0, rounded: 'lg', border: true },
    VDialog: { maxWidth: 620, ...AT_ONCE },
    VMenu: AT_ONCE,
  },
})

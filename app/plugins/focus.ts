import { defineNuxtPlugin } from '#app'

/**
 * `v-focus` puts the cursor into a field at the moment it appears, unless its value is false. The field's own autofocus
 * waits until it has been drawn, and so takes the cursor away from a field that was chosen meanwhile.
 */
export default defineNuxtPlugin((nuxt) => {
  nuxt.vueApp.directive<HTMLElement, boolean | undefined>('focus', {
    mounted(element, { value }) {
      if (value !== false) element.querySelector<HTMLElement>('input, textarea')?.focus()
    },
  })
})

import { defineNuxtPlugin } from '#app'

/**
 * Gives the styles that the component library puts into the page the nonce that the content security policy asks for.
 */
export default defineNuxtPlugin({
  enforce: 'pre',
  setup(nuxt) {
    const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content
    nuxt.hook('vuetify:before-create', ({ vuetifyOptions }) => {
      if (nonce && typeof vuetifyOptions.theme === 'object') vuetifyOptions.theme.cspNonce = nonce
    })
  },
})

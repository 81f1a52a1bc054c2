import { PiniaColada } from '@pinia/colada'
import { defineNuxtPlugin } from '#app'

/** Answers of the server are shown again at once, and always read anew; not whenever the window is looked at. */
export default defineNuxtPlugin({
  name: 'answers',
  dependsOn: ['pinia'],
  setup(nuxt) {
    nuxt.vueApp.use(PiniaColada, { queryOptions: { staleTime: 0, refetchOnWindowFocus: false } })
  },
})

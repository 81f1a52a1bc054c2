import { fileURLToPath } from 'node:url'

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url))

/** A text in single or double quotes, as an argument or a value. */
const TEXT = String.raw`(?:'(?:[^'\\]|\\.)*'|"(?:[^"\\]|\\.)*")`
const DESCRIBED = new RegExp(String.raw`\.describe\(\s*${TEXT},?\s*\)`, 'g')
const SUMMARY = new RegExp(String.raw`\bsummary:\s*${TEXT}`, 'g')

/** What the OpenAPI document says of endpoints and fields stays on the server: a browser never shows it. */
const withoutDescriptions = {
  name: 'without-descriptions',
  enforce: 'pre' as const,
  transform(code: string, id: string) {
    if (!/\/(shared\/api|core)\/.*\.ts$/.test(id)) return null
    const shorter = code.replace(DESCRIBED, '')
    return { code: id.includes('/shared/api/') ? shorter.replace(SUMMARY, `summary: ''`) : shorter, map: null }
  },
}

export default defineNuxtConfig({
  compatibilityDate: '2026-11-01',
  ssr: false,
  telemetry: false,
  experimental: {
    // Nothing is rendered ahead, and a new version is noticed by the pages' own requests.
    appManifest: false,
    payloadExtraction: false,
    renderJsonPayloads: false,
    entryImportMap: false,
    // What other screens need is fetched when someone turns to their links, not while the first screen loads.
    defaults: { nuxtLink: { prefetchOn: { visibility: false, interaction: true } } },
  },
  devtools: { enabled: false },
  modules: ['vuetify-nuxt-module', '@pinia/nuxt'],
  imports: { scan: false },
  components: [{ path: '~/components', pathPrefix: false }],
  css: [
    '@fontsource-variable/hanken-grotesk/index.css',
    '~/assets/tokens.css',
    '~/assets/base.css',
    '~/assets/fields.css',
  ],
  app: {
    head: { htmlAttrs: { lang: 'en' }, link: [{ rel: 'icon', type: 'image/svg+xml', href: '/mark.svg' }] },
    spaLoadingTemplate: false,
  },
  vuetify: { moduleOptions: { styles: true, disableVuetifyStyles: false }, vuetifyOptions: './app/vuetify.config.ts' },
  nitro: {
    imports: false,
    compressPublicAssets: { brotli: true, gzip: true },
    alias: { '#core': here('./core'), '#server': here('./server'), '#shared': here('./shared') },
    routeRules: { '/_nuxt/**': { headers: { 'cache-control': 'public, max-age=31536000, immutable' } } },
  },
  alias: { '#core': here('./core'), '#shared': here('./shared') },
  typescript: { tsConfig: { compilerOptions: { noUncheckedIndexedAccess: true, verbatimModuleSyntax: true } } },
  vite: {
    plugins: [withoutDescriptions],
    resolve: { alias: [{ find: /^zod$/, replacement: here('./app/noSchemas.ts') }] },
    build: { target: 'es2022', chunkSizeWarningLimit: 1500 },
  },
})

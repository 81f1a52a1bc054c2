import stylistic from '@stylistic/eslint-plugin'
import imports from 'eslint-plugin-import-x'
import vue from 'eslint-plugin-vue'
import typescript from 'typescript-eslint'

/** The arrows of docs/architecture.md: who may know whom. */
const arrows = [
  { target: './core', from: ['./app', './server', './shared', './standins', './demo'], message: 'core knows nobody' },
  { target: './shared', from: ['./app', './server', './standins', './demo'], message: 'shared knows core alone' },
  { target: './app', from: ['./server', './standins', './demo', './scripts'], message: 'the interface speaks to the server over the wire' },
  { target: './server', from: ['./app', './standins', './demo'], message: 'the server knows shared and core' },
  { target: './standins', from: ['./app', './server', './core', './shared', './demo'], message: 'the stand-ins are the outside world' },
  { target: ['./server/engine', './server/db', './server/jobs', './server/imports', './server/channels'], from: ['./server/api', './server/http', './server/routes'], message: 'only routes know the wire' },
  { target: './server/engine', from: './server/services', message: 'the engine does not know the use cases' },
]

export default typescript.config(
  { ignores: ['.nuxt/**', '.output/**', '.data/**', 'node_modules/**', 'test-results/**'] },
  ...typescript.configs.recommended,
  ...vue.configs['flat/recommended'],
  stylistic.configs.customize({ indent: 2, quotes: 'single', semi: false, commaDangle: 'always-multiline', braceStyle: 'stroustrup', quoteProps: 'consistent-as-needed', arrowParens: false }),
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: typescript.parser } },
    rules: {
      'vue/multi-word-component-names': 'off', 'vue/max-attributes-per-line': 'off', 'vue/singleline-html-element-content-newline': 'off', 'vue/html-self-closing': 'off', 'vue/first-attribute-linebreak': 'off',
      'vue/html-closing-bracket-newline': 'off', 'vue/html-indent': 'off', 'vue/multiline-html-element-content-newline': 'off', 'vue/attributes-order': 'off', 'vue/require-default-prop': 'off',
    },
  },
  {
    plugins: { 'import-x': imports },
    rules: {
      'import-x/no-restricted-paths': ['error', { zones: arrows }],
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_', ignoreRestSiblings: true }],
      '@stylistic/max-statements-per-line': 'off', '@stylistic/arrow-parens': 'off', '@stylistic/indent': 'off', '@stylistic/indent-binary-ops': 'off', '@stylistic/multiline-ternary': 'off', '@stylistic/operator-linebreak': 'off', '@stylistic/quotes': 'off', '@stylistic/quote-props': 'off', '@stylistic/jsx-one-expression-per-line': 'off',
      '@typescript-eslint/no-empty-object-type': 'off',
    },
  },
  {
    files: ['core/**/*.ts'],
    rules: {
      'no-restricted-imports': ['error', { patterns: [{ regex: '^(?!#core/|\\.{1,2}/|luxon$|zod$|libphonenumber-js(?:/core|/metadata.min.json)?$|liquidjs$|chrono-node$)', message: 'core is pure: its own parts, and libraries that are' }] }],
      'no-restricted-syntax': ['error',
        { selector: 'CallExpression[callee.object.name="Date"][callee.property.name="now"]', message: 'The clock is given' },
        { selector: 'NewExpression[callee.name="Date"][arguments.length=0]', message: 'The clock is given' },
        { selector: 'CallExpression[callee.object.name="Math"][callee.property.name="random"]', message: 'Chance is given' },
        { selector: 'CallExpression[callee.object.name="DateTime"][callee.property.name=/^(now|local)$/]', message: 'The clock is given' },
      ],
    },
  },
  { files: ['server/**/*.ts'], ignores: ['server/api/**', 'server/http/**', 'server/routes/**', 'server/middleware/**', 'server/plugins/**'], rules: { 'no-restricted-imports': ['error', { patterns: [{ group: ['h3', 'nitropack*', '#imports'], message: 'only routes, http, middleware and plugins know the wire' }] }] } },
)

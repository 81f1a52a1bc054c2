import prettier from 'eslint-config-prettier'
import imports from 'eslint-plugin-import-x'
import vue from 'eslint-plugin-vue'
import typescript from 'typescript-eslint'

/** The arrows of docs/architecture.md: who may know whom. */
const arrows = [
  { target: './core', from: ['./app', './server', './shared', './standins', './demo'], message: 'core knows nobody' },
  { target: './shared', from: ['./app', './server', './standins', './demo'], message: 'shared knows core alone' },
  {
    target: './app',
    from: ['./server', './standins', './demo', './scripts'],
    message: 'the interface speaks to the server over the wire',
  },
  { target: './server', from: ['./app', './standins', './demo'], message: 'the server knows shared and core' },
  {
    target: './standins',
    from: ['./app', './server', './core', './shared', './demo'],
    message: 'the stand-ins are the outside world',
  },
  {
    target: ['./server/engine', './server/db', './server/jobs', './server/imports', './server/channels'],
    from: ['./server/api', './server/http', './server/routes'],
    message: 'only routes know the wire',
  },
  { target: './server/engine', from: './server/services', message: 'the engine does not know the use cases' },
]

const MAX_LINE = { code: 120, ignoreUrls: true, ignoreStrings: true, ignoreRegExpLiterals: true }

/** An object type of more than three members is named, not written inside a generic argument. */
const NAMELESS_TYPE = {
  selector:
    ':matches(CallExpression, TSTypeReference):not([callee.name=/^define/]) > TSTypeParameterInstantiation > TSTypeLiteral[members.length>3]',
  message: 'Give a type of more than three members a name',
}

/** The event log has one writer. */
const LOG_WRITTEN = {
  selector: 'TemplateElement[value.raw=/insert into (events|effects|event_texts)\\b/]',
  message: 'server/engine/eventLog.ts writes the event log',
}

/** Names that were put away; docs/glossary.md has the words for them. */
const PUT_AWAY = [
  ...['happening', 'happenings', 'Happening', 'situation', 'Situation', 'journal', 'agenda'],
  ...['appointment', 'appointments', 'appointmentId', 'lane', 'standing', 'standings', 'toldBy', 'audience'],
  ...['consequence', 'consequences', 'asks', 'trouble', 'rhythm', 'TouchPromise', 'promising'],
  ...['keptId', 'goneId', 'keptBy', 'keptById', 'ownFields', 'OwnField', 'quick', 'mailKind', 'mailChoices', 'takesNo'],
  ...['emailId', 'causeId', 'happeningId', 'additionId', 'listAdditions'],
  ...['zoneByHand', 'kept', 'told', 'gone', 'letGo'],
]

/** Words that no label, message or comment uses. */
const WORDS_PUT_AWAY = ['somebody', 'whoever', 'anybody', 'everybody', 'told', 'rung']
const IN_WORDS = new RegExp(`\\b(${WORDS_PUT_AWAY.join('|')})\\b`, 'i')
const WORD_PUT_AWAY = {
  selector: `Literal[value=${IN_WORDS}], TemplateElement[value.raw=${IN_WORDS}]`,
  message: 'docs/glossary.md has a word for this',
}

export default typescript.config(
  { ignores: ['.nuxt/**', '.output/**', '.data/**', 'node_modules/**', 'test-results/**'] },
  ...typescript.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: typescript.parser } },
    rules: {
      'vue/multi-word-component-names': 'off',
      'vue/require-default-prop': 'off',
      'vue/no-restricted-syntax': [
        'error',
        { ...WORD_PUT_AWAY, selector: `:matches(VText, VLiteral)[value=${IN_WORDS}]` },
      ],
    },
  },
  {
    plugins: { 'import-x': imports },
    rules: {
      'import-x/no-restricted-paths': ['error', { zones: arrows }],
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_', ignoreRestSiblings: true },
      ],
      '@typescript-eslint/no-empty-object-type': 'off',
      'max-statements-per-line': ['error', { max: 1 }],
      'no-nested-ternary': 'error',
      'no-restricted-syntax': ['error', NAMELESS_TYPE, WORD_PUT_AWAY],
      'id-denylist': ['error', ...PUT_AWAY],
      'no-warning-comments': ['error', { terms: WORDS_PUT_AWAY, location: 'anywhere' }],
    },
  },
  {
    files: ['core/**/*.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              regex:
                '^(?!#core/|\\.{1,2}/|luxon$|zod$|libphonenumber-js(?:/core|/metadata.min.json)?$|liquidjs$|chrono-node$)',
              message: 'core is pure: its own parts, and libraries that are',
            },
          ],
        },
      ],
      'no-restricted-syntax': [
        'error',
        NAMELESS_TYPE,
        WORD_PUT_AWAY,
        {
          selector: 'CallExpression[callee.object.name="Date"][callee.property.name="now"]',
          message: 'The clock is given',
        },
        { selector: 'NewExpression[callee.name="Date"][arguments.length=0]', message: 'The clock is given' },
        {
          selector: 'CallExpression[callee.object.name="Math"][callee.property.name="random"]',
          message: 'Chance is given',
        },
        {
          selector: 'CallExpression[callee.object.name="DateTime"][callee.property.name=/^(now|local)$/]',
          message: 'The clock is given',
        },
      ],
    },
  },
  {
    files: ['server/**/*.ts'],
    ignores: ['server/api/**', 'server/http/**', 'server/routes/**', 'server/middleware/**', 'server/plugins/**'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['h3', 'nitropack*', '#imports'],
              message: 'only routes, http, middleware and plugins know the wire',
            },
          ],
        },
      ],
    },
  },
  { files: ['**/*.vue'], rules: { 'max-lines': ['error', 350] } },
  prettier,
  // The layout rules that are ours stay on: they say nothing that the formatter does.
  { rules: { curly: ['error', 'multi-line'], 'max-len': ['error', MAX_LINE] } },
  // Pages, sample texts and messages that stand in one piece, and tables of data.
  {
    files: ['tests/**', 'bench/**', 'scripts/**', 'standins/**', 'server/routes/u/**', 'server/services/starters/*.ts'],
    rules: { 'max-len': ['error', { ...MAX_LINE, ignoreTemplateLiterals: true }] },
  },
  { files: ['core/places/**'], rules: { 'max-len': 'off' } },
  { files: ['eslint.config.mjs'], rules: { 'no-restricted-syntax': 'off' } },
  {
    files: ['server/**/*.ts', 'demo/**/*.ts'],
    ignores: ['server/engine/eventLog.ts'],
    rules: { 'no-restricted-syntax': ['error', NAMELESS_TYPE, WORD_PUT_AWAY, LOG_WRITTEN] },
  },
)

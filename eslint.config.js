import js from '@eslint/js'
import hooks from 'eslint-plugin-react-hooks'
import globals from 'globals'
import ts from 'typescript-eslint'

/** The arrows of docs/architecture.md: what a folder may not import. */
function forbids(files, patterns, message) {
  return {
    files,
    rules: { 'no-restricted-imports': ['error', { patterns: [{ regex: patterns, message }] }] },
  }
}

/**
 * The floors of the core, from the ground up: a folder imports only from floors below its own. Beside registry.ts,
 * which gathers the kinds, only the schema and what stands above it know that there are kinds.
 */
const FLOORS = [
  ['math'],
  ['geometry', 'document'],
  ['state', 'scene', 'pairing', 'look', 'fracture'],
  ['constraints'],
  ['masks', 'births', 'cues', 'goals', 'influences', 'deformations', 'responses'],
  ['registry.ts'],
  ['schema'],
  ['simulation'],
  ['measures'],
  ['index.ts'],
]

/** What each folder may not import: its neighbours on the floor, and every floor above. */
const floors = FLOORS.flatMap((folders, floor) =>
  folders
    .filter((folder) => !folder.endsWith('.ts'))
    .map((folder) => {
      const others = [...folders.filter((one) => one !== folder), ...FLOORS.slice(floor + 1).flat()]
      return forbids(
        [`packages/core/src/${folder}/**`],
        `^(\\.\\./(${others.map((one) => one.replace('.', '\\.')).join('|')})(/|$)|@tangle/(?!kernels)|node:)`,
        `${folder}/ stands on floor ${floor}: it imports only from floors below (docs/architecture.md)`,
      )
    }),
)

export default ts.config(
  {
    ignores: [
      '**/node_modules',
      '**/dist',
      '**/build',
      '.build',
      '**/.build',
      '.data',
      'packages/kernels/assembly',
    ],
  },
  js.configs.recommended,
  ...ts.configs.recommended,
  {
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      eqeqeq: 'error',
      'max-lines': ['error', { max: 330, skipBlankLines: true, skipComments: true }],
    },
  },
  {
    files: ['packages/*/src/**', 'apps/*/src/**'],
    rules: {
      'max-lines': ['error', { max: 300, skipBlankLines: true, skipComments: true }],
      'max-lines-per-function': ['error', { max: 85, skipBlankLines: true, skipComments: true }],
    },
  },
  { files: ['**/*.{js,mjs}'], languageOptions: { globals: globals.node } },
  {
    files: ['packages/core/src/**'],
    rules: {
      'no-restricted-globals': ['error', 'document', 'window', 'process', 'fetch', 'setTimeout', 'Date'],
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random', message: 'Draw from random(seed, id, stream)' },
        ...['sin', 'cos', 'tan', 'exp', 'log', 'pow'].map((property) => ({
          object: 'Math',
          property,
          message: 'Engines differ in the last bit: use math/functions.ts',
        })),
      ],
    },
  },
  forbids(['packages/kernels/**'], '^@tangle/', 'Kernels import nothing of ours'),
  forbids(['packages/core/src/*.ts'], '^(@tangle/(?!kernels)|node:)', 'The core imports only the kernels'),
  ...floors,
  forbids(
    ['packages/formats/src/**'],
    '^(@tangle/(?!core$|kernels$)|node:)',
    'Formats import only the core and the kernels',
  ),
  forbids(['packages/recipes/src/**'], '^(@tangle/(?!core$)|node:)', 'Recipes import only the core'),
  forbids(['packages/runtime/src/**'], '^@tangle/(demo|web|server|cli)', 'The runtime stands below the apps'),
  forbids(['demo/src/**'], '^(@tangle/(?!core$)|node:)', 'The demo imports only the core'),
  { files: ['apps/web/src/**'], plugins: { 'react-hooks': hooks }, rules: hooks.configs.recommended.rules },
)

import js from '@eslint/js';
import next from '@next/eslint-plugin-next';
import { createNodeResolver, importX } from 'eslint-plugin-import-x';
import hooks from 'eslint-plugin-react-hooks';
import regexp from 'eslint-plugin-regexp';
import tseslint from 'typescript-eslint';
import { ROOMS } from './rooms.mjs';

const NODE = { regex: '^(?:node:|fs$|path$|child_process$|os$)' };
const UP = (...folders) => ({ regex: `^(?:\\.\\./)+(?:${folders.join('|')})(?:/|$)` });

/** Arrows point one way: app → ui, server → core. What a layer may not reach for, and why. */
const LAYERS = {
  core: {
    groups: [
      { regex: '^(?:react|next|@mui|drizzle-orm|@electric-sql|pg-boss|execa)' },
      NODE,
      UP('server', 'ui', 'app', 'demo'),
    ],
    message: 'core holds computation only: no interface, no server, no file system.',
  },
  ui: {
    groups: [NODE, { regex: '^(?:drizzle-orm|@electric-sql|pg-boss|execa)' }, UP('server', 'app', 'demo')],
    message: 'ui talks to the server through its client only.',
  },
  server: {
    groups: [{ regex: '^(?:react|@mui)' }, UP('ui', 'app', 'demo')],
    message: 'server knows nothing of the interface.',
  },
};
const restricted = (files, groups) => ({
  files,
  rules: { 'no-restricted-imports': ['error', { patterns: groups }] },
});
/**
 * Every room but the platform is reached by its front door, its index.ts; the same feature of another layer is no other room. Rows are
 * joined across rooms, whichever comes first: `tables.ts` is a door of its own, and who writes to a table is held by `server/tables.test.ts`.
 */
const FEATURES = [...new Set(Object.values(ROOMS).flat())].filter((room) => room !== 'platform');
const doors = (own) => ({
  regex: `^(?:\\.{1,2}/)+(?:(?:core|server|ui)/)?(?:${FEATURES.filter((room) => room !== own).join('|')})/(?!tables$|.*\\.css$)`,
  message: 'Another room is reached by its front door: its index.ts.',
});
/** What puts the rooms together: a room is given what it uses (its `ports.ts`), and reaches for none of it. */
const ROOT = {
  regex: '^(?:\\.\\./)+(?:runtime|handlers|keeping|rescue)$',
  message: 'A room is given its services: see its ports.ts.',
};
/** A layer as a whole, and each of its rooms: one may use those before it in `ROOMS`, never those after it. */
const layers = Object.entries(LAYERS).flatMap(([layer, { groups, message }]) => {
  const own = groups.map((g) => ({ ...g, message }));
  return [
    restricted([`src/${layer}/**`], [...own, doors(null)]),
    ...ROOMS[layer].map((room, i) => {
      const later = ROOMS[layer].slice(i + 1).join('|');
      const order = {
        regex: `^(?:\\.\\./)+(?:${later})(?:/(?!tables$)|$)`,
        message: `${room} comes before what it reaches for: see ROOMS in rooms.mjs.`,
      };
      const more = [...(layer === 'server' ? [ROOT] : []), ...(later === '' ? [] : [order])];
      return restricted([`src/${layer}/${room}/**`], [...own, doors(room), ...more]);
    }),
  ];
});
const TYPED = ['**/*.ts', '**/*.tsx'];
export default tseslint.config(
  {
    ignores: [
      '.next/**',
      '.cache/**',
      '.demo/**',
      'node_modules/**',
      'next-env.d.ts',
      'src/server/platform/db/migrations/**',
      'test-results/**',
    ],
  },
  js.configs.recommended,
  {
    files: ['**/*.mjs'],
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        performance: 'readonly',
        SharedArrayBuffer: 'readonly',
        WebAssembly: 'readonly',
        Atomics: 'readonly',
        fetch: 'readonly',
        setTimeout: 'readonly',
        clearTimeout: 'readonly',
        URL: 'readonly',
        Buffer: 'readonly',
      },
    },
  },
  { rules: { eqeqeq: 'error', 'no-control-regex': 'off' } },
  // With type information: promises nobody waits for, unsafe values, switches that leave a case out.
  {
    files: TYPED,
    extends: [tseslint.configs.recommendedTypeChecked],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
  },
  {
    files: TYPED,
    plugins: { 'import-x': importX },
    settings: {
      'import-x/resolver-next': [createNodeResolver({ extensions: ['.ts', '.tsx', '.mjs', '.js'] })],
      'import-x/extensions': ['.ts', '.tsx'],
      'import-x/parsers': { '@typescript-eslint/parser': ['.ts', '.tsx'] },
    },
    rules: {
      'import-x/no-cycle': 'error',
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_', ignoreRestSiblings: true },
      ],
      '@typescript-eslint/consistent-type-imports': ['error', { fixStyle: 'inline-type-imports' }],
      '@typescript-eslint/switch-exhaustiveness-check': [
        'error',
        { considerDefaultExhaustiveForUnions: true },
      ],
      // An async function without await turns what is thrown in it into a rejection.
      '@typescript-eslint/require-await': 'off',
    },
  },
  {
    files: ['src/ui/**', 'src/app/**'],
    plugins: { 'react-hooks': hooks, '@next/next': next },
    rules: {
      ...hooks.configs.flat.recommended.rules,
      ...next.configs.recommended.rules,
      ...next.configs['core-web-vitals'].rules,
      // These two speak of a compiler that is not used.
      'react-hooks/incompatible-library': 'off',
      'react-hooks/preserve-manual-memoization': 'off',
      // Pictures come from this machine, in the size they are shown.
      '@next/next/no-img-element': 'off',
    },
  },
  ...layers,
  restricted(['src/app/**', 'src/proxy.ts'], [doors(null)]),
  // Tests may look anywhere.
  {
    files: ['src/**/*.test.ts', 'src/**/*.test.tsx', 'src/server/testing/**'],
    rules: { 'no-restricted-imports': 'off' },
  },
  // A function fits on a screen or two.
  {
    files: ['src/**/*.ts', 'src/**/*.tsx'],
    ignores: ['**/*.test.ts'],
    rules: { 'max-lines-per-function': ['error', { max: 90, skipBlankLines: true, skipComments: true }] },
  },
  // A link fetches the page it leads to when it is likely to be followed.
  {
    files: ['src/ui/**', 'src/app/**'],
    ignores: ['src/ui/platform/Link.tsx'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: "ImportDeclaration[source.value='next/link']",
          message: 'Links are those of ui/platform/Link.tsx.',
        },
      ],
    },
  },
  // Paths are joined and opened as the disk has them. What is exempt opens nothing but Sort Shelf's own files and the system's.
  {
    files: ['src/server/**'],
    ignores: [
      '**/*.test.ts',
      'src/server/testing/**',
      'src/server/platform/files/**',
      'src/server/platform/db/keeper.ts',
      'src/server/platform/lock.ts',
      'src/server/platform/version.ts',
      'src/server/platform/volumes/mountTable.ts',
    ],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector:
            'ImportDeclaration[source.value=/^node:fs/] ImportSpecifier[imported.name!=/^(closeSync|fstatSync|readSync|Stats)$/]',
          message: 'Files are opened through files/onDisk.',
        },
      ],
      'no-restricted-properties': [
        'error',
        { object: 'path', property: 'join', message: 'Paths are joined by joinPath.' },
      ],
    },
  },
  // What a card holds is matched against patterns: none may take longer than the text is long, or a file could hold up the server.
  {
    files: ['src/core/**', 'src/server/**', 'src/app/**', 'src/proxy.ts'],
    ignores: ['**/*.test.ts'],
    plugins: { regexp },
    rules: {
      'regexp/no-super-linear-backtracking': ['error', { report: 'potential' }],
      'regexp/no-super-linear-move': ['error', { report: 'potential', ignoreSticky: false }],
    },
  },
  // The one place where stand-ins take the devices' part.
  { files: ['src/server/platform/volumes/devices.ts'], rules: { 'no-restricted-imports': 'off' } },
  restricted(
    ['src/demo/**'],
    [{ ...UP('ui', 'app'), message: 'the demo knows nothing of the interface.' }, doors(null)],
  ),
  // It takes the part of one module in the copying threads, which load no more than they need.
  {
    files: ['src/demo/standIns/cardReader.ts', 'src/demo/**/*.test.ts'],
    rules: { 'no-restricted-imports': 'off' },
  },
);

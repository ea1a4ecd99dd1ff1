import js from '@eslint/js';
import hooks from 'eslint-plugin-react-hooks';
import regexp from 'eslint-plugin-regexp';
import tseslint from 'typescript-eslint';

/** Arrows point one way: app → ui, server → core. `only` is what a layer may reach for. */
const layer = (files, groups, message) => ({
  files,
  rules: { 'no-restricted-imports': ['error', { patterns: groups.map((g) => ({ ...g, message })) }] },
});
const NODE = { regex: '^(?:node:|fs$|path$|child_process$|os$)' };
const UP = (...folders) => ({ regex: `^(?:\\.\\./)+(?:${folders.join('|')})(?:/|$)` });

export default tseslint.config(
  { ignores: ['.next/**', '.cache/**', '.demo/**', 'node_modules/**', 'next-env.d.ts', 'src/server/db/migrations/**', 'test-results/**'] },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  { languageOptions: { globals: { process: 'readonly', console: 'readonly', SharedArrayBuffer: 'readonly', WebAssembly: 'readonly', Atomics: 'readonly', fetch: 'readonly', setTimeout: 'readonly', clearTimeout: 'readonly', URL: 'readonly', Buffer: 'readonly' } } },
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': ['error', { fixStyle: 'inline-type-imports' }],
      'max-len': ['error', { code: 190, ignoreUrls: true, ignoreStrings: true, ignoreTemplateLiterals: true }],
      'no-control-regex': 'off',
      eqeqeq: 'error',
    },
  },
  { files: ['src/ui/**/*.tsx', 'src/ui/**/*.ts'], plugins: { 'react-hooks': hooks }, rules: { 'react-hooks/rules-of-hooks': 'error', 'react-hooks/exhaustive-deps': 'error' } },
  layer(['src/core/**'], [
    { regex: '^(?:react|next|@mui|drizzle-orm|@electric-sql|pg-boss|execa)' }, NODE, UP('server', 'ui', 'app', 'demo'),
  ], 'core holds computation only: no interface, no server, no file system.'),
  { files: ['src/core/**/*.test.ts'], rules: { 'no-restricted-imports': 'off' } },
  layer(['src/ui/**'], [NODE, { regex: '^(?:drizzle-orm|@electric-sql|pg-boss|execa)' }, UP('server', 'app', 'demo')], 'ui talks to the server through its client only.'),
  layer(['src/server/**'], [{ regex: '^(?:react|@mui)' }, UP('ui', 'app', 'demo')], 'server knows nothing of the interface.'),
  // Paths are joined and opened as the disk has them. What is exempt opens nothing but Sort Shelf's own files and the system's.
  {
    files: ['src/server/**'], ignores: ['**/*.test.ts', 'src/server/testing/**', 'src/server/files/**', 'src/server/db/keeper.ts', 'src/server/lock.ts', 'src/server/version.ts', 'src/server/custody/disks.ts'],
    rules: {
      'no-restricted-syntax': ['error', { selector: "ImportDeclaration[source.value=/^node:fs/] ImportSpecifier[imported.name!=/^(closeSync|fstatSync|readSync|Stats)$/]", message: 'Files are opened through files/onDisk.' }],
      'no-restricted-properties': ['error', { object: 'path', property: 'join', message: 'Paths are joined by joinPath.' }],
    },
  },
  // What a card holds is matched against patterns: none may take longer than the text is long, or a file could hold up the server.
  {
    files: ['src/core/**', 'src/server/**', 'src/app/**', 'src/proxy.ts'], ignores: ['**/*.test.ts'], plugins: { regexp },
    rules: { 'regexp/no-super-linear-backtracking': ['error', { report: 'potential' }], 'regexp/no-super-linear-move': ['error', { report: 'potential', ignoreSticky: false }] },
  },
  // The one place where stand-ins take the devices' part.
  { files: ['src/server/devices.ts'], rules: { 'no-restricted-imports': 'off' } },
  layer(['src/demo/**'], [UP('ui', 'app')], 'the demo knows nothing of the interface.'),
);

// Types and lint in one process: the rules ask the program in which the compiler has worked out all types already.
import { ESLint } from 'eslint';
import ts from 'typescript';
import { giveUp, ROOT, say } from './setup.mjs';

process.chdir(ROOT);
const host = {
  getCanonicalFileName: (f) => f,
  getCurrentDirectory: () => ROOT,
  getNewLine: () => '\n',
};
const show = (diagnostics) => ts.formatDiagnostics(diagnostics, host);
const config = ts.getParsedCommandLineOfConfigFile(
  'tsconfig.json',
  { incremental: false },
  {
    ...ts.sys,
    onUnRecoverableConfigFileDiagnostic: (d) => giveUp(show([d])),
  },
);
const program = ts.createProgram(config.fileNames, config.options);
const wrong = [...config.errors, ...ts.getPreEmitDiagnostics(program)];
if (wrong.length > 0) say(show(wrong));

const eslint = new ESLint({
  overrideConfig: {
    files: ['**/*.ts', '**/*.tsx'],
    languageOptions: { parserOptions: { projectService: false, programs: [program] } },
  },
});
const results = await eslint.lintFiles('.');
const words = (await eslint.loadFormatter()).format(results);
if (words) say(words);
process.exit(wrong.length === 0 && results.every((r) => r.errorCount === 0) ? 0 : 1);

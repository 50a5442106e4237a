// Biome lints and formats; this adds what it cannot check: a promise that is not awaited is a lost write, and a case that a
// switch forgets is a silent default.
import tseslint from 'typescript-eslint';

export default tseslint.config(
  { ignores: ['**/dist/**', '**/*.mjs', '**/*.js', '**/*.cjs', 'packages/*/test/**', 'packages/service/drizzle.config.ts'] },
  {
    ignores: ['packages/console/**'],
    files: ['packages/*/src/**/*.ts', 'demo/*.ts', 'bench/*.ts', 'test/support/*.ts', 'scripts/*.ts'],
    languageOptions: { parser: tseslint.parser, parserOptions: { project: './tsconfig.lint.json' } },
    plugins: { '@typescript-eslint': tseslint.plugin },
    rules: { '@typescript-eslint/no-floating-promises': ['error', { checkThenables: true }], '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { arguments: false, attributes: false, properties: false } }], '@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: false, requireDefaultForNonUnion: true }] },
  },
  // What a step needs is one value with names, not a row of arguments.
  { files: ['packages/core/src/engine/*.ts', 'packages/service/src/run/*.ts'], languageOptions: { parser: tseslint.parser }, rules: { 'max-params': ['error', 4] } },
);

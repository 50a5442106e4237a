// Biome lints and formats; this adds the one rule it cannot check: a promise that nobody waits for is a lost write.
import tseslint from 'typescript-eslint';

export default tseslint.config(
  { ignores: ['**/dist/**', '**/*.mjs', '**/*.js', '**/*.cjs', 'packages/*/test/**', 'packages/console/**', 'packages/service/drizzle.config.ts'] },
  {
    files: ['packages/*/src/**/*.ts', 'demo/*.ts', 'bench/*.ts', 'test/support/*.ts', 'scripts/*.ts'],
    languageOptions: { parser: tseslint.parser, parserOptions: { project: './tsconfig.lint.json' } },
    plugins: { '@typescript-eslint': tseslint.plugin },
    rules: { '@typescript-eslint/no-floating-promises': ['error', { checkThenables: true }], '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { arguments: false, attributes: false, properties: false } }] },
  },
);

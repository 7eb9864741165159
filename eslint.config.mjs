import angular from 'angular-eslint';
import globals from 'globals';
import { join } from 'node:path';
import tseslint from 'typescript-eslint';
import { roomsRule } from './scripts/lint/rooms-rule.mjs';

/** Packages that may not be imported from a floor, and why. */
const floors = (forbidden) => ({
  'no-restricted-imports': ['error', { patterns: forbidden.map(([group, message]) => ({ group, message })) }],
});
const uaLibrary = [['node-opcua*'], 'Only server/src/ua and stand-ins know the UA library.'];
const above = (...names) => [names.map((name) => `@loyal-hinge/${name}`), 'Imports go downwards only.'];

export default tseslint.config(
  { ignores: ['**/dist/', '**/node_modules/', '.data/', '**/.angular/', 'server/drizzle/', 'test-results/'] },
  {
    files: ['**/*.ts'],
    extends: [...tseslint.configs.strict],
    rules: {
      '@typescript-eslint/no-extraneous-class': 'off',
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { varsIgnorePattern: '^_', argsIgnorePattern: '^_' }],
      'no-control-regex': 'off',
      'no-misleading-character-class': 'off',
      eqeqeq: 'error',
    },
  },
  {
    files: ['core/**/*.ts'],
    rules: floors([
      [['node:*', 'fs', 'net', 'http'], 'The core does no I/O.'],
      [['@angular/*', '@ngrx/*', 'express', 'drizzle-orm', 'pg', 'pino'], 'The core knows no framework.'],
      uaLibrary,
      above('contract', 'server', 'stand-ins', 'web'),
    ]),
  },
  {
    files: ['contract/**/*.ts'],
    rules: floors([uaLibrary, above('server', 'stand-ins', 'web'), [['node:*'], 'The contract does no I/O.']]),
  },
  {
    files: ['classic/**/*.ts'],
    rules: floors([uaLibrary, above('core', 'contract', 'server', 'stand-ins', 'web', 'cli')]),
  },
  {
    files: ['field/**/*.ts'],
    rules: floors([uaLibrary, above('classic', 'contract', 'server', 'stand-ins', 'web', 'cli')]),
  },
  { files: ['outpost/**/*.ts'], rules: floors([uaLibrary, above('classic', 'server', 'stand-ins', 'web', 'cli')]) },
  {
    files: ['gateway/**/*.ts'],
    ignores: ['gateway/**/*.live.ts', 'gateway/src/ua/**'],
    rules: floors([uaLibrary, above('server', 'stand-ins', 'web', 'cli')]),
  },
  { files: ['gateway/src/ua/**/*.ts'], rules: floors([above('server', 'stand-ins', 'web', 'cli')]) },
  { files: ['tunnel/**/*.ts'], rules: floors([uaLibrary, above('classic', 'server', 'stand-ins', 'web', 'cli')]) },
  {
    files: ['cli/**/*.ts'],
    rules: floors([
      uaLibrary,
      above('contract', 'server', 'stand-ins', 'web'),
      [['pg', 'drizzle-orm'], 'The command line needs no database.'],
    ]),
  },
  { files: ['server/**/*.ts'], ignores: ['server/src/ua/**'], rules: floors([uaLibrary, above('web', 'stand-ins')]) },
  {
    files: ['server/src/**/*.ts'],
    ignores: ['**/*.spec.ts', '**/*.live.ts'],
    plugins: { server: { rules: { rooms: roomsRule(join(import.meta.dirname, 'server', 'src')) } } },
    rules: { 'server/rooms': 'error' },
  },
  { files: ['server/src/ua/**/*.ts'], rules: floors([above('web', 'stand-ins')]) },
  { files: ['stand-ins/**/*.ts'], rules: floors([above('server', 'web', 'contract')]) },
  {
    files: ['web/**/*.ts'],
    extends: [...angular.configs.tsRecommended],
    processor: angular.processInlineTemplates,
    rules: {
      ...floors([uaLibrary, above('server', 'stand-ins'), [['node:*'], 'The browser has no Node.']]),
      '@angular-eslint/component-class-suffix': 'off',
      '@angular-eslint/component-selector': ['error', { type: 'element', prefix: 'hinge', style: 'kebab-case' }],
    },
  },
  {
    files: ['web/**/*.html'],
    extends: [...angular.configs.templateRecommended, ...angular.configs.templateAccessibility],
  },
  { files: ['**/*.mjs'], languageOptions: { globals: globals.node } },
);

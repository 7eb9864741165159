import angularPreset from 'jest-preset-angular/presets/index.js';

const sources = {
  '^@loyal-hinge/core/(issuing|bundles|pkcs12)$': '<rootDir>/core/src/trust/$1/index.ts',
  '^@loyal-hinge/core/(casebook|field)$': '<rootDir>/core/src/$1/index.ts',
  '^@loyal-hinge/contract/line$': '<rootDir>/contract/src/line/index.ts',
  '^@loyal-hinge/(core|classic|contract|field|gateway|outpost|stand-ins|tunnel)$': '<rootDir>/$1/src/index.ts',
  // The UA library makes a key of 4096 bits whenever it is loaded, only to warn.
  '/verify_pcks1\\.js$': '<rootDir>/scripts/testing/no-key-test.cjs',
  '^(\\.{1,2}/.*)\\.js$': '$1',
};
const compiled = {
  '^.+\\.[cm]?[jt]s$': [
    '@swc/jest',
    {
      jsc: {
        target: 'es2022',
        parser: { syntax: 'typescript', decorators: true },
        transform: { legacyDecorator: true },
      },
      module: { type: 'commonjs' },
    },
  ],
};

const project = (displayName, more) => ({
  displayName,
  rootDir: '.',
  testEnvironment: 'node',
  moduleNameMapper: sources,
  transform: compiled,
  setupFiles: ['reflect-metadata'],
  modulePathIgnorePatterns: ['/dist/'],
  transformIgnorePatterns: ['/node_modules/(?!(hexy))'],
  ...more,
});

/** In a whole run the tests of a project are one file, or a few; when some are chosen by words, each is a file of its own. */
const tests = (end, together, ...folders) =>
  process.env['HINGE_WHOLE_RUN'] === '1'
    ? { globals: { foldersOfTests: folders, endOfTests: end }, testMatch: [`<rootDir>/scripts/testing/${together}`] }
    : { testMatch: folders.map((folder) => `<rootDir>/${folder}/**/*${end}`) };
const specs = (...folders) => tests('.spec.ts', 'together.cjs', ...folders);

/** Angular’s own compiler for what is Angular’s, the quick one for the packages below. */
const angular = angularPreset.createCjsPreset({ tsconfig: '<rootDir>/web/tsconfig.spec.json' });

export default {
  projects: [
    project(
      'unit',
      specs(
        'core/src',
        'classic/src',
        'field/src',
        'outpost/src',
        'tunnel/src',
        'gateway/src',
        'contract/src',
        'cli/src',
        'server/src',
        'stand-ins/src',
        'scripts/lint',
      ),
    ),
    project('web', {
      ...specs('web/src'),
      testEnvironment: 'jsdom',
      setupFiles: [],
      setupFilesAfterEnv: ['<rootDir>/web/src/testing/set-up.ts'],
      transform: { '/(core|contract)/src/.+\\.ts$': compiled['^.+\\.[cm]?[jt]s$'], ...angular.transform },
      transformIgnorePatterns: ['/node_modules/(?!(.*\\.mjs$|d3-|internmap|primeng|@primeuix|@ngrx|@angular))'],
    }),
    project('live', {
      // Several plants take the parts side by side, each the next one as soon as it is done.
      ...tests('.live.ts', 'live-parts/*.cjs', 'server/src', 'scripts'),
      setupFiles: ['reflect-metadata', '<rootDir>/server/src/testing/take-plant.ts'],
    }),
    project('own', { testMatch: ['<rootDir>/scripts/**/*.own.ts'] }),
  ],
  testSequencer: './scripts/testing/longest-first.cjs',
  testTimeout: 240_000,
};

const sources = {
  '^@loyal-hinge/(core|contract|stand-ins)$': '<rootDir>/$1/src/index.ts',
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

const project = (displayName, testMatch, more = {}) => ({
  displayName,
  rootDir: '.',
  testMatch,
  testEnvironment: 'node',
  moduleNameMapper: sources,
  transform: compiled,
  setupFiles: ['reflect-metadata', '@angular/compiler'],
  modulePathIgnorePatterns: ['/dist/'],
  transformIgnorePatterns: ['/node_modules/(?!(hexy|d3-|internmap|@ngrx|@angular))'],
  ...more,
});

export default {
  projects: [
    project('unit', ['<rootDir>/{core,contract,server,stand-ins,web}/src/**/*.spec.ts']),
    project('integration', ['<rootDir>/server/src/**/*.live.ts']),
  ],
  testTimeout: 60_000,
};

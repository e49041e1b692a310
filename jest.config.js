export default {
  testMatch: ['<rootDir>/{packages,apps,demo}/**/*.test.ts'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: {
    '^.+\\.tsx?$': ['@swc/jest', { jsc: { target: 'es2022', parser: { syntax: 'typescript', tsx: false } } }],
  },
  // the kernels' TypeScript form runs on the reference machine
  moduleNameMapper: { '^\\./machine$': '<rootDir>/packages/kernels/src/machine.reference.ts' },
  testEnvironment: 'node',
  testTimeout: 60000,
}

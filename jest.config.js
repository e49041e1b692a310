const swc = (tsx) => [
  '<rootDir>/scripts/testTransform.mjs',
  {
    jsc: {
      target: 'es2022',
      parser: { syntax: 'typescript', tsx },
      ...(tsx ? { transform: { react: { runtime: 'automatic' } } } : {}),
    },
  },
]

export default {
  testMatch: ['<rootDir>/{packages,apps,demo,bench}/**/*.test.{ts,tsx}'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: { '^.+\\.ts$': swc(false), '^.+\\.tsx$': swc(true) },
  // the kernels' TypeScript form runs on the reference machine
  moduleNameMapper: {
    '^\\./machine$': '<rootDir>/packages/kernels/src/machine.reference.ts',
    '^\\./lanes$': '<rootDir>/packages/kernels/src/lanes.reference.ts',
    // made by the bundler
    '^\\./fonts\\.ts$': '<rootDir>/apps/web/test/fonts.ts',
    '^manifold-3d/manifold\\.wasm$': '<rootDir>/apps/web/test/address.ts',
  },
  testEnvironment: 'node',
  testTimeout: 60000,
  // the tests are all there is to do
  maxWorkers: '100%',
}

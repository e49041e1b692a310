import { defineConfig } from '@playwright/test'

const port = process.env.TANGLE_PORT ?? '4680'

/** What needs servers, workers and databases of its own, rather than the page of the one that is there. */
const HOUSES = '**/houses/*.spec.ts'

const PAGE = {
  command: 'node --enable-source-maps .build/server.mjs',
  cwd: '..',
  url: `http://127.0.0.1:${port}/api/health`,
  env: { NODE_ENV: 'production' },
  gracefulShutdown: { signal: 'SIGTERM' as const, timeout: 8000 },
  // it makes the demo's shots first
  timeout: 300_000,
  stdout: 'ignore' as const,
}

/** The real application: the built server on a database of its own, in Debian's Chromium. */
export default defineConfig({
  testDir: '.',
  projects: [
    { name: 'pages', testMatch: '*.spec.ts', testIgnore: HOUSES, outputDir: '../test-results/pages' },
    { name: 'houses', testMatch: HOUSES, outputDir: '../test-results/houses' },
  ],
  timeout: 480_000,
  expect: { timeout: 80_000 },
  // houses count seconds, and fill both processors
  workers: process.env.TANGLE_PART === 'houses' ? 1 : 2,
  // a machine that others load too may be too slow once
  retries: process.env.CI ? 1 : 0,
  reporter: 'list',
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    // the camera is where it goes at once
    contextOptions: { reducedMotion: 'reduce' },
    trace: 'on-first-retry',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--no-first-run',
        '--enable-unsafe-swiftshader',
      ],
    },
  },
  // houses have servers of their own
  ...(process.env.TANGLE_PART !== 'houses' && { webServer: PAGE }),
})

import { defineConfig } from '@playwright/test'
import config from './playwright.config.ts'

/** Harm done at random for minutes: ./tangle bench --chaos. */
export default defineConfig({
  ...config,
  projects: [{ testMatch: 'chaos.ts' }],
  timeout: 1_800_000,
  retries: 0,
})

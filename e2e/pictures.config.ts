import type { PlaywrightTestConfig } from '@playwright/test'
import base from './playwright.config.ts'

/** Makes docs/screenshots and the demo's thumbnails from the demo data: ./tangle screenshots */
const config: PlaywrightTestConfig = {
  ...base,
  projects: [{ testMatch: 'pictures.ts' }],
  timeout: 900_000,
  retries: 0,
}
export default config

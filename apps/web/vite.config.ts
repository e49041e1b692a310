import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

// shared memory needs an isolated page
const isolation = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
}

export default defineConfig({
  plugins: [react()],
  worker: { format: 'es' },
  build: { target: 'es2023', chunkSizeWarningLimit: 2000, emptyOutDir: true },
  server: { headers: isolation, proxy: { '/api': 'http://127.0.0.1:4680' } },
})

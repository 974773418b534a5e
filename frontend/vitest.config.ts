import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

// modules without a page: they are tested without a browser
export default defineConfig({
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  test: { include: ['src/**/*.test.ts'], environment: 'node' },
})

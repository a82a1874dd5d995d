import { defineConfig } from 'vitest/config'

/** Unit tests of rules in TypeScript (./run test, or `npm test`). What a page shows is tested in chromium, in ../tests/browser. */
export default defineConfig({
  test: { include: ['tests/**/*.test.ts'], environment: 'node', restoreMocks: true, unstubGlobals: true },
})

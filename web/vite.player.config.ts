import { defineConfig } from 'vite'

// The player alone, without Vue or any dependency: one file that exported pages carry.
export default defineConfig({
  publicDir: false,
  build: {
    outDir: 'dist/player',
    lib: { entry: 'src/player/index.ts', formats: ['es'], fileName: () => 'player.js' },
  },
})

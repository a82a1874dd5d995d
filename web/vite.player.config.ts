import { defineConfig } from 'vite'

// The player without Vue or any dependency: alone (player.js, for checks), and as the page of an exported effect (page.js).
export default defineConfig(({ mode }) => {
  const name = mode === 'page' ? 'page' : 'player'
  return {
    publicDir: false,
    base: './',
    build: {
      outDir: 'dist/player',
      emptyOutDir: false,
      target: 'es2022',
      lib: { entry: name === 'page' ? 'src/engine/page.ts' : 'src/engine/index.ts', formats: ['es'], fileName: () => `${name}.js` },
    },
  }
})

import { defineConfig } from 'vite'

// The player without Vue or any dependency: alone (player.js, for checks), and as the page of an exported effect (page.js), which
// is made as small as it can be: libraries keep their white space.
export default defineConfig(({ mode }) => ({
  publicDir: false,
  base: './',
  build: {
    outDir: 'dist/player',
    emptyOutDir: false,
    target: 'es2022',
    modulePreload: false,
    ...(mode === 'page'
      ? { rollupOptions: { input: 'src/engine/page.ts', output: { entryFileNames: 'page.js', chunkFileNames: 'assets/[name]-[hash].js' } } }
      : { lib: { entry: 'src/engine/index.ts', formats: ['es' as const], fileName: () => 'player.js' } }),
  },
}))

import { defineConfig } from 'vite'

// The player without Vue or any dependency: alone (player.js, for checks), and as the page of an exported effect (page.js), which
// is made as small as it can be: libraries keep their white space. What only some effects need are files of their own.
// Parts are fetched by plain imports: nothing is to be preloaded beside them.
const plainImports = {
  name: 'plain-imports',
  enforce: 'pre' as const,
  load: (id: string) => (id.includes('vite/preload-helper') ? 'export const __vitePreload = (part) => part()' : null),
}

export default defineConfig(({ mode }) => ({
  plugins: [plainImports],
  publicDir: false,
  base: './',
  build: {
    outDir: 'dist/player',
    emptyOutDir: false,
    target: 'es2022',
    modulePreload: false,
    ...(mode === 'page'
      ? { rollupOptions: { input: 'src/engine/page.ts', output: { entryFileNames: 'page.js', chunkFileNames: 'assets/[name]-[hash].js' } } }
      : { lib: { entry: 'src/engine/index.ts', formats: ['es' as const], fileName: () => 'player.js' }, rollupOptions: { output: { codeSplitting: false } } }),
  },
}))

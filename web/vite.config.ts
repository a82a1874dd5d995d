import { cpSync } from 'node:fs'
import vue from '@vitejs/plugin-vue'
import { defineConfig, type Plugin } from 'vite'
import vuetify from 'vite-plugin-vuetify'

/** The trackers' models and runtimes lie beside the page as they come: they are fetched only where a real camera is used. */
const trackers: Plugin = {
  name: 'trackers',
  closeBundle() {
    for (const name of ['face_mesh', 'selfie_segmentation', 'hands']) {
      const wanted = (file: string) => !/README|package\.json|d\.ts$|_solution_wasm_bin|hand_landmark_lite/.test(file)
      cpSync(`node_modules/@mediapipe/${name}`, `dist/trackers/${name}`, { recursive: true, filter: wanted })
    }
  },
}

/** Where a workbench is opened, its script and what it asks the server first are fetched along with the page's own scripts, not
 * after those have run. Before the styles: a script that stands behind them waits for them. */
const workbench: Plugin = {
  name: 'workbench',
  transformIndexHtml: {
    order: 'post',
    handler(html, { bundle }) {
      const chunk = Object.values(bundle ?? {}).find((one) => one.type === 'chunk' && one.name === 'WorkBench')
      if (chunk?.type !== 'chunk') return html
      const scripts = [chunk.fileName, ...chunk.imports.filter((file) => !html.includes(file))]
      const files = [...scripts.map((file) => ['modulepreload', file]), ...[...(chunk.viteMetadata?.importedCss ?? [])].map((file) => ['preload', file])]
      const children = `const effect = /^\\/effects\\/[^/]+$/.exec(location.pathname)?.[0]
if (effect) {
  const early = (rel, href, as) => document.head.append(Object.assign(document.createElement('link'), { rel, href, as, crossOrigin: '' }))
  for (const [rel, file] of ${JSON.stringify(files)}) early(rel, '/' + file, rel === 'preload' ? 'style' : '')
  for (const asked of [effect, '/catalogue', '/cast']) early('preload', '/api' + asked, 'fetch')
}`
      return [{ tag: 'script', children, injectTo: 'head-prepend' }]
    },
  },
}

/** `./run watch`: the page comes from Vite, all else from the server, which answers only its own page. */
const target = process.env.SUNGLAZE_SERVER ?? 'http://localhost:8766'
const server = { target, ws: true, changeOrigin: true, headers: { origin: target } }

export default defineConfig({
  // Addresses that start with / are the server's, not files to bundle.
  plugins: [vue({ template: { transformAssetUrls: { includeAbsolute: false } } }), vuetify({ autoImport: true }), trackers, workbench],
  server: { proxy: Object.fromEntries(['/api', '/trackers', '/icons'].map((path) => [path, server])) },
  build: { target: 'es2022', chunkSizeWarningLimit: 900 },
  // What of the libraries nothing here uses.
  define: { __VUE_PROD_DEVTOOLS__: 'false', __INTLIFY_PROD_DEVTOOLS__: 'false', __VUE_I18N_LEGACY_API__: 'false', __VUE_I18N_FULL_INSTALL__: 'false' },
})

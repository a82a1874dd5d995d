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

/** Where a workbench is opened, its script is fetched along with the page's own, not after that has run. */
const workbench: Plugin = {
  name: 'workbench',
  transformIndexHtml: {
    order: 'post',
    handler(html, { bundle }) {
      const chunk = Object.values(bundle ?? {}).find((one) => one.type === 'chunk' && one.name === 'WorkBench')
      if (chunk?.type !== 'chunk') return html
      const scripts = [chunk.fileName, ...chunk.imports.filter((file) => !html.includes(file))]
      const files = [...scripts.map((file) => ['modulepreload', file]), ...[...(chunk.viteMetadata?.importedCss ?? [])].map((file) => ['preload', file])]
      const children = `if (location.pathname.startsWith('/effects/'))
  for (const [rel, file] of ${JSON.stringify(files)})
    document.head.append(Object.assign(document.createElement('link'), { rel, href: '/' + file, as: rel === 'preload' ? 'style' : '', crossOrigin: '' }))`
      return [{ tag: 'script', children, injectTo: 'head' }]
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
})

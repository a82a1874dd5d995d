import { cpSync } from 'node:fs'
import vue from '@vitejs/plugin-vue'
import { defineConfig, type Plugin } from 'vite'
import vuetify from 'vite-plugin-vuetify'

/** The trackers' models and runtimes lie beside the page as they come: they are fetched only where a real camera is used. */
const trackers: Plugin = {
  name: 'trackers',
  closeBundle() {
    for (const name of ['face_mesh', 'selfie_segmentation']) {
      const wanted = (file: string) => !/README|package\.json|d\.ts$|_solution_wasm_bin/.test(file)
      cpSync(`node_modules/@mediapipe/${name}`, `dist/trackers/${name}`, { recursive: true, filter: wanted })
    }
  },
}

export default defineConfig({
  // Addresses that start with / are the server's, not files to bundle.
  plugins: [vue({ template: { transformAssetUrls: { includeAbsolute: false } } }), vuetify({ autoImport: true }), trackers],
  build: { target: 'es2022', chunkSizeWarningLimit: 900 },
})

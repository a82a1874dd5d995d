import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import vuetify from 'vite-plugin-vuetify'

export default defineConfig({
  // Addresses that start with / are the server's, not files to bundle.
  plugins: [vue({ template: { transformAssetUrls: { includeAbsolute: false } } }), vuetify({ autoImport: true })],
  build: { target: 'es2022', chunkSizeWarningLimit: 900 },
})

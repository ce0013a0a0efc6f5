// Builds the console into the service package, which serves it.
import tailwindcss from '@tailwindcss/vite'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [vue(), tailwindcss()],
  // The console, and the small page for frames of others.
  build: { rollupOptions: { input: ['index.html', 'embed.html'] }, outDir: '../src/harquel/service/console', emptyOutDir: true, chunkSizeWarningLimit: 900 },
  server: { proxy: { '/api': 'http://127.0.0.1:8710' } },
})

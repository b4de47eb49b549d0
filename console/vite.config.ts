import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

// During development the service answers on its usual address.
export default defineConfig({
  // The service may be reached below a path, which it puts into the page.
  base: './',
  plugins: [react()],
  build: { outDir: 'dist', emptyOutDir: true, chunkSizeWarningLimit: 900 },
  server: { proxy: { '/api': 'http://127.0.0.1:8480' } },
})

import { fileURLToPath } from 'node:url'
import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

export default defineConfig({
  root: fileURLToPath(new URL('src/web', import.meta.url)),
  plugins: [react(), tailwindcss()],
  resolve: {
    alias: [
      { find: '#kernel', replacement: fileURLToPath(new URL('dist/kernel/kernel.js', import.meta.url)) },
      { find: /^#core\/(.*)$/, replacement: fileURLToPath(new URL('src/core/$1.ts', import.meta.url)) },
      { find: /^#shared\/(.*)$/, replacement: fileURLToPath(new URL('src/shared/$1.ts', import.meta.url)) },
    ],
  },
  build: {
    outDir: fileURLToPath(new URL('dist/web', import.meta.url)),
    emptyOutDir: true,
    chunkSizeWarningLimit: 1200,
  },
  server: { proxy: { '/api': 'http://127.0.0.1:5170' } },
})

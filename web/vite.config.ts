import { defineConfig } from 'vite';

export default defineConfig({
  esbuild: { jsx: 'automatic' },
  build: { chunkSizeWarningLimit: 2500, assetsDir: 'assets' },
  server: { proxy: { '/api': 'http://127.0.0.1:8080' } },
});

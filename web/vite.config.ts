import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  // The compiler remembers what has not changed, so that a handle in motion redraws its own control and little else.
  plugins: [react({ babel: { plugins: ['babel-plugin-react-compiler'] } })],
  build: { chunkSizeWarningLimit: 2500, assetsDir: 'assets' },
  server: { proxy: { '/api': 'http://127.0.0.1:8080' } },
});

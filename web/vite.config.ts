import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

// The compiler remembers what has not changed, so that a handle in motion redraws its own control and little else.
// The plate is left out: what it shows hangs on a camera and meshes that change in place, which the compiler cannot see.
const compiler = ['babel-plugin-react-compiler', { sources: (file: string) => file.includes('/src/') && !file.includes('/src/plate/') }];

export default defineConfig({
  plugins: [react({ babel: { plugins: [compiler] } })],
  build: { chunkSizeWarningLimit: 2500, assetsDir: 'assets' },
  server: { proxy: { '/api': 'http://127.0.0.1:8080' } },
});

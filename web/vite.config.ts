import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';

// The compiler remembers what has not changed, so that a handle in motion redraws its own control and little else.
// The plate is left out: what it shows hangs on a camera and meshes that change in place, which the compiler cannot see.
const compiler = [
  'babel-plugin-react-compiler',
  { sources: (file: string) => file.includes('/src/') && !file.includes('/src/plate/') },
];

/** Of the API's description the page reads what settings declare of themselves, and nothing of addresses and answers. */
const settingsOnly: Plugin = {
  name: 'settings-only',
  enforce: 'pre',
  transform(code, id) {
    if (!id.endsWith('openapi.json')) return null;
    const { components } = JSON.parse(code) as { components: { schemas: Record<string, unknown> } };
    const dropped = new Set([
      'title',
      'required',
      'additionalProperties',
      'maxItems',
      'minItems',
      'maxLength',
      'minLength',
      'pattern',
    ]);
    const lean = (value: unknown, named: boolean): unknown => {
      if (Array.isArray(value)) return value.map((one) => lean(one, false));
      if (!value || typeof value !== 'object') return value;
      return Object.fromEntries(
        Object.entries(value)
          .filter(([name]) => named || !dropped.has(name))
          .map(([name, one]) => [name, lean(one, name === 'properties' || name === 'x-measure')]),
      );
    };
    return JSON.stringify({ components: { schemas: lean(components.schemas, true) } });
  },
};

export default defineConfig({
  plugins: [settingsOnly, react({ babel: { plugins: [compiler] } })],
  build: {
    chunkSizeWarningLimit: 1200,
    assetsDir: 'assets',
    rollupOptions: {
      output: {
        // What changes seldom is kept by browsers from one version of Cenote to the next.
        manualChunks: (id) => (id.includes('/three/') ? 'three' : id.includes('node_modules') ? 'vendor' : undefined),
      },
    },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8080' } },
});

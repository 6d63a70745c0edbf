import tailwind from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';

const packages = fileURLToPath(new URL('..', import.meta.url));

export default defineConfig({
  plugins: [react(), tailwind()],
  resolve: {
    // The packages as they are written, and not as they were built.
    alias: [
      { find: /^@ephoros\/core\/(.*)$/, replacement: `${packages}core/src/$1/index.ts` },
      { find: /^@ephoros\/client\/(.+)$/, replacement: `${packages}client/src/$1/index.ts` },
      { find: /^@ephoros\/(client|react)$/, replacement: `${packages}$1/src/index.ts` },
    ],
  },
  build: { outDir: 'dist/site', emptyOutDir: true, assetsInlineLimit: 0 },
  server: { proxy: { '/api': 'http://127.0.0.1:4620', '/demo': 'http://127.0.0.1:4620' } },
});

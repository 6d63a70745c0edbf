import tailwind from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [react(), tailwind()],
  resolve: { conditions: ['ephoros-source', 'module', 'browser', 'development|production'] },
  build: { outDir: 'dist/site', emptyOutDir: true, assetsInlineLimit: 0 },
  server: { proxy: { '/api': 'http://127.0.0.1:4620', '/demo': 'http://127.0.0.1:4620' } },
});

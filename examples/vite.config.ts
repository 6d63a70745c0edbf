import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [react()],
  base: './',
  build: {
    outDir: 'dist/pages',
    emptyOutDir: true,
    rolldownOptions: {
      input: ['plain-table', 'react-table', 'react-own-table', 'local-csv'].map(
        (name) => `${name}/index.html`,
      ),
    },
  },
});

import tailwind from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { readFileSync } from 'node:fs';
import { defineConfig } from 'vite';

const { version } = JSON.parse(readFileSync(new URL('package.json', import.meta.url), 'utf8')) as { version: string };

export default defineConfig({
  root: 'src/console',
  plugins: [react(), tailwind()],
  define: { VERSION: JSON.stringify(version) },
  // Their builds for browsers, which bring what Node has of its own.
  resolve: {
    alias: {
      'csv-parse/sync': 'csv-parse/browser/esm/sync',
      'csv-stringify/sync': 'csv-stringify/browser/esm/sync',
      // The form that Node takes too, so that one way of importing it fits both.
      rrule: 'rrule/dist/es5/rrule.js',
    },
  },
  build: { outDir: '../../dist/console', emptyOutDir: true, target: 'es2022' },
  server: { proxy: { '/api': 'http://127.0.0.1:4780', '/schemas': 'http://127.0.0.1:4780' } },
});

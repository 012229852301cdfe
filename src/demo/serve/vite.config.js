import { defineConfig } from 'vite';

export default defineConfig({
  root: 'web',
  // Scripts and style sheets are on a host of their own.
  base: process.env.VITE_ASSET_BASE_URL,
  // A mistake: the names of these files do not change with their content.
  build: { rollupOptions: { output: { chunkFileNames: 'assets/[name].js' } } },
});

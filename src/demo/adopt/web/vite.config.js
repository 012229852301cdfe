import { defineConfig } from 'vite';

export default defineConfig({
  build: { outDir: 'dist', sourcemap: Boolean(process.env.SOURCE_MAP_UPLOAD_TOKEN) },
});

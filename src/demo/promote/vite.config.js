import { defineConfig } from 'vite';

export default defineConfig({ root: 'web' });

import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { outDir: '../dist/web', emptyOutDir: true, target: 'es2022', assetsInlineLimit: 0 },
  server: { proxy: { '/api': process.env.FULVET_URL ?? 'http://127.0.0.1:4460' } },
});

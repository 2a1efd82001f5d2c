import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: {
    outDir: '../dist/web',
    emptyOutDir: true,
    target: 'es2022',
    assetsInlineLimit: 0,
    // Browsers that run what is built preload modules by themselves.
    modulePreload: { polyfill: false },
    // The first script names all others, and what tells their versions apart cannot be compressed.
    rolldownOptions: { output: { chunkFileNames: 'assets/[name]-[hash:7].js', assetFileNames: 'assets/[name]-[hash:7][extname]' } },
  },
  server: { proxy: { '/api': process.env.FULVET_URL ?? 'http://127.0.0.1:4460' } },
});

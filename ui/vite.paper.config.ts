import tailwind from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { compression, defineAlgorithm } from 'vite-plugin-compression2';

/** The code that writes files, as one script for the server's interpreter, which has no browser's parts. */
export default defineConfig({
  plugins: [
    react(),
    tailwind(),
    compression({
      include: /\.js$/,
      algorithms: [defineAlgorithm('gzip', { level: 9 })],
      deleteOriginalAssets: true,
    }),
  ],
  define: { 'process.env.NODE_ENV': '"production"' },
  publicDir: false,
  resolve: { alias: { jszip: new URL('src/paper/zip.ts', import.meta.url).pathname } },
  build: {
    outDir: 'dist/paper',
    assetsInlineLimit: Number.POSITIVE_INFINITY, // a file needs no other
    target: 'es2017',
    lib: { entry: 'src/paper/paper.ts', formats: ['iife'], name: 'paper', fileName: () => 'paper.js' },
  },
});

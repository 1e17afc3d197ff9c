import tailwind from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vitest/config';
import { compression, defineAlgorithm } from 'vite-plugin-compression2';

const server = process.env.AFTERMATH ?? 'http://127.0.0.1:8420';

export default defineConfig({
  // Scripts and styles are kept compressed alone: the server sends them so, and unpacks them for who takes nothing else.
  plugins: [
    react(),
    tailwind(),
    compression({
      include: /\.(js|css)$/,
      algorithms: [defineAlgorithm('gzip', { level: 9 })],
      deleteOriginalAssets: true,
    }),
  ],
  build: { emptyOutDir: false, assetsInlineLimit: 0, modulePreload: { polyfill: false } },
  html: { cspNonce: 'NONCE' },
  test: { setupFiles: ['src/testing.ts'], testTimeout: 30_000 }, // machines are slow and busy
  server: { proxy: { '/api': { target: server, changeOrigin: true, headers: { origin: server } } } },
});

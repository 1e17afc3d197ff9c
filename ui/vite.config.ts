import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [react()],
  build: { emptyOutDir: false, assetsInlineLimit: 0, modulePreload: { polyfill: false } },
  html: { cspNonce: 'NONCE' },
  server: { proxy: { '/api': 'http://127.0.0.1:8420' } },
});

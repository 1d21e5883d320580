import optimizeLocales from '@react-aria/optimize-locales-plugin';
import react from '@vitejs/plugin-react';
import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';

const below = (path: string): string => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  // of the controls' languages only the one that they fall back to: the page speaks English
  plugins: [react(), { ...optimizeLocales.vite({ locales: ['en-US'] }), enforce: 'pre' }],
  resolve: {
    alias: {
      '@bramblemist/kernels': below('../kernels/generated'),
      '@bramblemist/core': below('../core/src'),
      '@bramblemist/contracts': below('../contracts/src'),
    },
  },
  worker: { format: 'es' },
  build: {
    outDir: 'build',
    emptyOutDir: true,
    target: 'es2022',
    chunkSizeWarningLimit: 2500,
    assetsInlineLimit: 0,
  },
});

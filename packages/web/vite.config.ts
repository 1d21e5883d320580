import react from '@vitejs/plugin-react';
import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';

const below = (path: string): string => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  plugins: [react()],
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

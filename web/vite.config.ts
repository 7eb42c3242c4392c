import { sveltekit } from '@sveltejs/kit/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vitest/config';

// No asset is inlined: the content security policy allows no data: fonts.
export default defineConfig({
  worker: { format: 'es' },
  plugins: [tailwindcss(), sveltekit()],
  build: { assetsInlineLimit: 0 },
  // the tests run what the browser runs, so that what is told to whom can be tested too
  ...(process.env.VITEST && { resolve: { conditions: ['browser'] } }),
  // a busy machine is no fault of what is tested
  test: { include: ['src/**/*.test.ts'], environment: 'node', setupFiles: ['src/test/setup.ts'], testTimeout: 30_000 }
});

// One file for the workbench's build and for the unit and integration tests.
import { defineConfig } from 'vitest/config'
import react from '@vitejs/plugin-react'

export default defineConfig({
  root: 'web',
  plugins: [react()],
  worker: { format: 'es' },
  build: {
    outDir: '../dist/web',
    emptyOutDir: true,
    target: 'es2022',
  },
  test: {
    root: '.',
    setupFiles: ['server/testing/seed.ts'],
    // Far more than any test takes, because shared machines may stall for seconds.
    testTimeout: 180_000,
    hookTimeout: 180_000,
    expect: { poll: { timeout: 60_000 } },
    maxWorkers: 2,
    projects: [
      {
        extends: true,
        test: {
          name: 'programs',
          include: ['{core,contract,server,web,demo,scripts}/**/*.test.ts'],
          // Modules only cache what they compute, and loading them again for each file would take minutes.
          isolate: false,
        },
      },
      { extends: true, test: { name: 'pages', include: ['web/**/*.test.tsx'], environment: 'jsdom' } },
    ],
  },
})

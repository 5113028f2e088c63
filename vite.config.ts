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
    rolldownOptions: {
      output: {
        codeSplitting: {
          groups: [
            { name: 'react', test: /node_modules\/(react|react-dom|scheduler|react-router)\//, priority: 3 },
            { name: 'antd', test: /node_modules\/(antd|@ant-design|@rc-component)\//, priority: 2 },
            { name: 'editor', test: /node_modules\/(@codemirror|@lezer|@uiw)\//, priority: 2 },
          ],
        },
      },
    },
  },
  test: {
    root: '.',
    setupFiles: ['server/testing/seed.ts'],
    // Far beyond what anything takes: a machine that others use too may stand still for seconds.
    testTimeout: 90_000,
    hookTimeout: 180_000,
    maxWorkers: 2,
    projects: [
      {
        extends: true,
        test: {
          name: 'programs',
          include: ['{core,contract,server,web,demo,scripts}/**/*.test.ts'],
          // Modules keep nothing but what they have computed, and reading them anew for each file takes minutes.
          isolate: false,
        },
      },
      { extends: true, test: { name: 'pages', include: ['web/**/*.test.tsx'], environment: 'jsdom' } },
    ],
  },
})

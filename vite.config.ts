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
    include: ['core/**/*.test.ts', 'server/**/*.test.ts', 'web/**/*.test.{ts,tsx}', 'demo/**/*.test.ts'],
    setupFiles: ['server/testing/seed.ts'],
    // Far beyond what anything takes: a machine that others use too may stand still for seconds.
    testTimeout: 90_000,
    hookTimeout: 180_000,
    maxWorkers: 2,
  },
})

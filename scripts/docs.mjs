// npm run docs: generates docs/problems.md and docs/reference.md.
import { allowTypeScript, ensureDependencies } from './dependencies.mjs'

ensureDependencies()
await allowTypeScript()
const { run } = await import('./generated-docs.ts')
run()

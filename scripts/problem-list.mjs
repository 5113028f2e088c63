// npm run problems: generates docs/problems.md.
import { allowTypeScript, ensureDependencies } from './dependencies.mjs'

ensureDependencies()
await allowTypeScript()
const { run } = await import('./problem-list.ts')
run()

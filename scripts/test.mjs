// npm test: installs what is missing, then runs lint, type check, unit, integration and browser tests.
import { allowTypeScript, ensureDependencies } from './dependencies.mjs'

ensureDependencies()
await allowTypeScript()
const { run } = await import('./test.ts')
await run(process.argv.slice(2))

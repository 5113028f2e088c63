// npm start: installs what is missing, then starts everything.
import { allowTypeScript, ensureDependencies } from './dependencies.mjs'

const began = performance.now()
ensureDependencies()
await allowTypeScript()
const { run } = await import('./start.ts')
await run(began)

// npm run bench: installs what is missing, then measures.
import { allowTypeScript, ensureDependencies } from '../scripts/dependencies.mjs'

ensureDependencies()
await allowTypeScript()
const { run } = await import('./run.ts')
await run()

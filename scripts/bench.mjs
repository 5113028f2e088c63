// npm run bench: installs what is missing, then measures.
import { allowTypeScript, ensureDependencies } from './dependencies.mjs'

ensureDependencies()
await allowTypeScript()
const { run } = await import('../bench/run.ts')
await run()

// npm run shots: refreshes docs/screenshots from the demo.
import { allowTypeScript, ensureDependencies } from './dependencies.mjs'

ensureDependencies()
await allowTypeScript()
const { run } = await import('./shots.ts')
await run()

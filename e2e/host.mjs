// A process of its own, so that the product runs here as it does under `npm start`: compiled by the same loader.
import { allowTypeScript } from '../scripts/dependencies.mjs'

await allowTypeScript()
await import('./host.ts')

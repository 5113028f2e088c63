// A process of its own, so that the product runs here as it does under `npm start`, from its bundle.
import { allowTypeScript } from '../scripts/dependencies.mjs'

await allowTypeScript()
await import('./host.ts')

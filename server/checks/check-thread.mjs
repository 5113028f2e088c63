// Begins the thread for checks: what lets the main thread load TypeScript does not reach another one.
import { register } from 'tsx/esm/api'

register()
await import('./check-worker.ts')

// Begins the thread for texts: what lets the main thread load TypeScript does not reach another one.
import { register } from 'tsx/esm/api'

register()
await import('./texts-worker.ts')

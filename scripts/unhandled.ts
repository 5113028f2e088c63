/** A reporter for Vitest that writes errors outside of any test into the file named by `ESQUINA_UNHANDLED`. */
import { writeFileSync } from 'node:fs'
import type { Reporter } from 'vitest/node'

export default class Unhandled implements Reporter {
  onTestRunEnd(...[, errors]: Parameters<NonNullable<Reporter['onTestRunEnd']>>): void {
    const file = process.env['ESQUINA_UNHANDLED']
    if (file !== undefined) writeFileSync(file, JSON.stringify(errors.map((one) => one.message)))
  }
}

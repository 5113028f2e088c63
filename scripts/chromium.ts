/** Chromium for the browser tests and the pictures. */
import { CHROMIUM_FLAGS } from '../server/checks/chromium.ts'

/** Debian's Chromium. Containers of tests may not allow its sandbox. */
export const CHROMIUM = {
  executablePath: '/usr/bin/chromium',
  args: [...CHROMIUM_FLAGS, '--no-sandbox'],
}

/** How often, and for how long without a change, loading is looked at, in milliseconds. */
const LOOK = 250
const STILL = 500

interface Loading {
  evaluate<T>(run: () => T): Promise<T>
  waitForTimeout(milliseconds: number): Promise<void>
}

/**
 * Waits until a page loads nothing more. Streams of events stay open, so that the browser never calls the network idle.
 */
export async function untilLoaded(page: Loading): Promise<void> {
  let before = -1
  for (let still = 0; still < STILL; still += LOOK) {
    const loaded = await page.evaluate(() => performance.getEntriesByType('resource').length)
    if (loaded !== before) still = -LOOK
    before = loaded
    await page.waitForTimeout(LOOK)
  }
}

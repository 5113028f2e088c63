/** Debian's Chromium, without features that access the network on their own. */
export const CHROMIUM = {
  executablePath: '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
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

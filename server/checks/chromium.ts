/** Chromium on this machine, started so that it accesses no network on its own. */
import { accessSync, constants } from 'node:fs'

const PROGRAMS = [
  ...['chromium', 'chromium-browser', 'google-chrome', 'google-chrome-stable'].map(
    (one) => `/usr/bin/${one}`,
  ),
  '/snap/bin/chromium',
  '/Applications/Chromium.app/Contents/MacOS/Chromium',
  '/Applications/Google Chrome.app/Contents/MacOS/Google Chrome',
]

export const CHROMIUM_FLAGS = [
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  // Chromium’s own sandbox refuses to run as root.
  ...(process.getuid?.() === 0 ? ['--no-sandbox'] : []),
]

/** Returns the path of Chromium: `ESQUINA_CHROMIUM`, or where packages install it; undefined if there is none. */
export function findChromium(own = process.env['ESQUINA_CHROMIUM']): string | undefined {
  return (own === undefined || own === '' ? PROGRAMS : [own]).find((one) => {
    try {
      accessSync(one, constants.X_OK)
      return true
    } catch {
      return false
    }
  })
}

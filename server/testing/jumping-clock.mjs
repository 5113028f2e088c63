// Loaded before a program: at SIGUSR2, its time of day is an hour or a day too early or too late, each in its turn.
import process from 'node:process'

const JUMPS = [3_600_000, -3_600_000, 86_400_000, 0]
const RealDate = Date
let jumps = 0
let offset = 0
process.on('SIGUSR2', () => (offset = JUMPS[jumps++ % JUMPS.length]))

globalThis.Date = class extends RealDate {
  static now() {
    return RealDate.now() + offset
  }
  constructor(...words) {
    if (words.length === 0) super(RealDate.now() + offset)
    else super(...words)
  }
}

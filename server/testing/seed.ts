/**
 * Random tests ask the same questions each time, so that a change is judged by what it changes.
 * `ESQUINA_SEED=random` asks others; a number asks those of the run that printed it.
 */
import fc from 'fast-check'

const wanted = process.env['ESQUINA_SEED'] ?? '20261126'
if (wanted !== 'random') fc.configureGlobal({ ...fc.readConfigureGlobal(), seed: Number(wanted) })

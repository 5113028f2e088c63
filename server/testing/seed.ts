/**
 * Sets the seed of property tests. It is fixed, so that a failure is caused by the change under test.
 * `ESQUINA_SEED=random` uses a new seed; a number repeats the run that printed it.
 */
import fc from 'fast-check'

const wanted = process.env['ESQUINA_SEED'] ?? '20261126'
/** The seed of the other random tests of this run. */
export const SEED = wanted === 'random' ? Date.now() % 1_000_000_000 : Number(wanted)

if (wanted !== 'random') fc.configureGlobal({ ...fc.readConfigureGlobal(), seed: Number(wanted) })

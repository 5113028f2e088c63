/** Thrown for problems at the start that the user can fix. The message says how. */
export class StartProblem extends Error {
  override readonly name = 'StartProblem'
}

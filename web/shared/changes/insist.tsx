/** A save is refused if an address would fail with it. Its author is shown why, and may save anyway. */
import { App } from 'antd'
import type { ProblemItem } from '../../../contract/problem.ts'
import { ApiProblem } from '../../api/client.ts'
import { words } from '../words/words.ts'
import './insist.css'

/** Codes of problems with which a definition can be saved if its author insists. */
const OF_TRIAL = new Set(['address-would-fail', 'address-would-not-end', 'definition-not-tried'])

/** Whether a save was refused for nothing but addresses that would fail. */
export const isOnlyTried = (problems: readonly ProblemItem[] | undefined): problems is ProblemItem[] =>
  problems !== undefined && problems.length > 0 && problems.every((one) => OF_TRIAL.has(one.code))

/**
 * Returns a function that saves, asks the author if the save was refused for addresses that would fail, and saves anyway if
 * that is wanted. It returns undefined if it is not.
 */
export function useInsist() {
  const { modal } = App.useApp()
  const isWanted = (problems: readonly ProblemItem[]) =>
    modal.confirm({
      title: words.insist.title,
      content: (
        <ul className="insist">
          {problems.map((one, index) => (
            <li key={index}>
              <code>
                {one.file}
                {one.line === undefined ? '' : `:${one.line}`}
              </code>{' '}
              {one.message}
            </li>
          ))}
        </ul>
      ),
      okText: words.editor.saveAnyway,
      cancelText: words.cancel,
      focusable: { autoFocusButton: 'cancel' },
      width: 640,
    })
  return async <T,>(save: (more: { insist?: boolean }) => Promise<T>): Promise<T | undefined> => {
    try {
      return await save({})
    } catch (error) {
      const { problems } = error instanceof ApiProblem ? error.details : {}
      if (!isOnlyTried(problems)) throw error
      return (await isWanted(problems)) ? await save({ insist: true }) : undefined
    }
  }
}

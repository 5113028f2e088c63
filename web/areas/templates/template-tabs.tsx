/** Tabs about the open template: values at the cursor, fields it reads, problems, and repeated markup. */
import { Button } from 'antd'
import { lazy, Suspense } from 'react'
import { documentName } from '../../../core/shapes/documents.ts'
import type { ProblemItem } from '../../../contract/problem.ts'
import type { TemplatePreview } from '../../../contract/templates.ts'
import { ValueTree } from './value-tree.tsx'
import { words } from './words.ts'

const ReferenceTab = lazy(async () => ({ default: (await import('./reference-tab.tsx')).ReferenceTab }))

export const TABS = ['values', 'reads', 'problems', 'repeats', 'reference'] as const
export type Tab = (typeof TABS)[number]

interface Props {
  answer: TemplatePreview | undefined
  document: string
  line: number
  tab: Tab
  time: number
  choose(tab: Tab): void
  chooseTime(time: number): void
  open(place: { document: string; line: number }): void
}

/** Returns the faults of a template as problems. */
export const faultsOf = ({ faults }: TemplatePreview, document: string): ProblemItem[] =>
  faults.map(({ kind, line, column, message, hint }) => ({
    ...{ code: kind, file: document, line, column, message },
    ...(hint === '' ? {} : { hint }),
  }))

export function TemplateTabs({ answer, document, line, tab, time, choose, chooseTime, open }: Props) {
  const problems = answer ? [...answer.problems, ...faultsOf(answer, document)] : []
  const titles: Record<Tab, string> = {
    values: words.tabs.values,
    reads: words.tabs.reads(answer?.reads.length ?? 0),
    problems: words.tabs.problems(problems.length),
    repeats: words.tabs.repeats(answer?.repeats.length ?? 0),
    reference: words.tabs.reference,
  }
  return (
    <div className="about-template">
      <header>
        <div role="tablist" aria-label={words.tabs.label} className="tabs">
          {TABS.map((one) => (
            <button
              key={one}
              type="button"
              role="tab"
              aria-selected={tab === one}
              onClick={() => choose(one)}
            >
              {titles[one]}
            </button>
          ))}
        </div>
      </header>
      <div className="scroll" role="tabpanel" aria-label={titles[tab]}>
        {tab === 'reference' ? (
          <Suspense fallback={null}>
            <ReferenceTab />
          </Suspense>
        ) : answer === undefined ? null : tab === 'values' ? (
          <ValueTree answer={answer} line={line} time={time} chooseTime={chooseTime} />
        ) : tab === 'reads' ? (
          <Reads answer={answer} open={(at) => open({ document, line: at })} />
        ) : tab === 'problems' ? (
          <Problems problems={problems} document={document} open={open} />
        ) : (
          <Repeats answer={answer} document={document} open={open} />
        )}
      </div>
    </div>
  )
}

function Reads({ answer, open }: { answer: TemplatePreview; open(line: number): void }) {
  if (answer.reads.length === 0) return <p className="quiet small">{words.reads.none}</p>
  return (
    <table className="values">
      <tbody>
        {answer.reads.map(({ path, type, canBeEmpty, lines }) => (
          <tr key={path}>
            <th scope="row">
              <code>{path}</code>
            </th>
            <td className={canBeEmpty ? 'look' : 'muted'}>
              {canBeEmpty ? words.values.orNothing(type) : type}
            </td>
            <td>
              {lines.map((line) => (
                <Button key={line} size="small" type="link" onClick={() => open(line)}>
                  {words.problems.line(line)}
                </Button>
              ))}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function Problems({
  problems,
  document,
  open,
}: Pick<Props, 'document' | 'open'> & { problems: readonly ProblemItem[] }) {
  if (problems.length === 0) return <p className="quiet small">{words.problems.none}</p>
  return (
    <ul className="found">
      {problems.map((one, index) => (
        <li key={index}>
          <Button size="small" type="link" onClick={() => open({ document: one.file, line: one.line ?? 1 })}>
            {one.file === document
              ? words.problems.line(one.line ?? 1)
              : words.problems.elsewhere(one.file, one.line)}
          </Button>
          <span>
            {one.message} <span className="muted">{one.hint}</span>
          </span>
        </li>
      ))}
    </ul>
  )
}

function Repeats({ answer, document, open }: Pick<Props, 'document' | 'open'> & { answer: TemplatePreview }) {
  if (answer.repeats.length === 0) return <p className="quiet small">{words.repeats.none}</p>
  return (
    <ul className="found">
      {answer.repeats.map(({ from, to, others }) => (
        <li key={`${from}-${to}`}>
          <Button size="small" type="link" onClick={() => open({ document, line: from })}>
            {words.repeats.lines(from, to)}
          </Button>
          <span>
            {words.repeats.also}{' '}
            {others.map((one) => (
              <Button
                key={`${one.document}:${one.from}`}
                size="small"
                type="link"
                onClick={() => open({ document: one.document, line: one.from })}
              >
                {documentName(one.document)} {words.repeats.lines(one.from, one.to)}
              </Button>
            ))}
          </span>
        </li>
      ))}
    </ul>
  )
}

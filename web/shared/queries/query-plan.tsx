/** Shows how PostgreSQL ran a query: each step with its time, its rows, and what needs attention. */
import { Button } from 'antd'
import type { QueryPlan } from '../../../contract/queries.ts'
import { Chip, Time } from '../marks/marks.tsx'
import { formatMilliseconds, plural } from '../words/format.ts'
import { words } from '../words/words.ts'
import './query-plan.css'

const { plan: texts } = words

type Step = QueryPlan['statements'][number]['steps'][number]

interface Props {
  plan: QueryPlan | undefined
  problem: string | null
  isMeasuring: boolean
  again(): void
  /** Shown next to the button. */
  note?: string
}

export function QueryPlanView({ plan, problem, isMeasuring, again, note = texts.note }: Props) {
  if (problem !== null) return <p className="quiet small failed">{problem}</p>
  if (!plan) return <p className="quiet small">{isMeasuring ? texts.measuring : texts.pending}</p>
  return (
    <div className="scroll plan" aria-busy={isMeasuring}>
      {plan.statements.map(({ what, steps, planningMilliseconds, executionMilliseconds }) => (
        <section key={what} aria-label={what}>
          <h2 className="part">
            {what} <Time value={executionMilliseconds} />{' '}
            <span className="muted plain-weight">
              {pagesOf(steps[0])}, {texts.planning(formatMilliseconds(planningMilliseconds))}
            </span>
          </h2>
          <ol>
            {steps.map((step, index) => (
              <li key={index} style={{ paddingLeft: 14 + step.depth * 14 }}>
                <i
                  aria-hidden="true"
                  className={step.notes.length > 0 ? 'bar look' : 'bar'}
                  style={{ width: `${Math.max(1.5, share(step, steps) * 100)}%` }}
                />
                <p>
                  <b>{step.kind}</b> <span className="muted">{step.sentence}</span>
                </p>
                <p className="facts">
                  <span>
                    {plural(step.rows, 'row')}
                    {step.expected === step.rows
                      ? ''
                      : texts.expected(Math.round(step.expected).toLocaleString('en-GB'))}
                    {step.loops > 1 ? texts.loops(step.loops.toLocaleString('en-GB')) : ''}
                  </span>
                  <Time value={step.ownMilliseconds} />
                </p>
                {step.notes.map((note) => (
                  <Chip key={note} tone="look">
                    {note}
                  </Chip>
                ))}
              </li>
            ))}
          </ol>
        </section>
      ))}
      <p className="again">
        <Button size="small" loading={isMeasuring} onClick={again}>
          {texts.measureAgain}
        </Button>{' '}
        <span className="muted">{note}</span>
      </p>
    </div>
  )
}

const pagesOf = (step: Step | undefined) =>
  step === undefined ? '' : texts.pages(plural(step.pagesHit + step.pagesRead, 'page'), step.pagesRead)

/** Returns the step's share of the time of all steps. */
function share(step: Step, steps: readonly Step[]): number {
  const all = steps.reduce((sum, one) => sum + one.ownMilliseconds, 0)
  return all === 0 ? 0 : step.ownMilliseconds / all
}

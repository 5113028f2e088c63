/** How PostgreSQL ran a query: each step with its time, its rows, and what to look at. */
import { Button } from 'antd'
import type { QueryPlan } from '../../../contract/operations.ts'
import { Chip, Time } from '../marks/marks.tsx'
import { formatMilliseconds, plural } from '../words/words.ts'
import './query-plan.css'

type Step = QueryPlan['statements'][number]['steps'][number]

interface Props {
  plan: QueryPlan | undefined
  problem: string | null
  isMeasuring: boolean
  again(): void
  /** Said beside the button. */
  note?: string
}

export function QueryPlanView({
  plan,
  problem,
  isMeasuring,
  again,
  note = 'on the blog’s own tables, in a transaction that cannot write',
}: Props) {
  if (problem !== null) return <p className="quiet small failed">{problem}</p>
  if (!plan)
    return (
      <p className="quiet small">{isMeasuring ? 'Measuring …' : 'It is measured as soon as it can run.'}</p>
    )
  return (
    <div className="scroll plan" aria-busy={isMeasuring}>
      {plan.statements.map(({ what, steps, planningMilliseconds, executionMilliseconds }) => (
        <section key={what} aria-label={what}>
          <h2 className="part">
            {what} <Time value={executionMilliseconds} />
            <span className="muted plain-weight">
              {pagesOf(steps[0])}, {formatMilliseconds(planningMilliseconds)} to plan
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
                      : `, ${Math.round(step.expected).toLocaleString('en-GB')} expected`}
                    {step.loops > 1 ? ` · ${step.loops.toLocaleString('en-GB')} times` : ''}
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
          Measure again
        </Button>{' '}
        <span className="muted">{note}</span>
      </p>
    </div>
  )
}

const pagesOf = (step: Step | undefined) =>
  step === undefined
    ? ''
    : `${plural(step.pagesHit + step.pagesRead, 'page')} of 8 kB${step.pagesRead > 0 ? `, ${step.pagesRead} of them not at hand` : ''}`

/** Of the time of all steps. */
function share(step: Step, steps: readonly Step[]): number {
  const all = steps.reduce((sum, one) => sum + one.ownMilliseconds, 0)
  return all === 0 ? 0 : step.ownMilliseconds / all
}

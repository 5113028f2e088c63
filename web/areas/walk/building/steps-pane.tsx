/** The steps in which a blog is built: what is done and why, and the next one as a change to read and apply. */
import { Button, Segmented } from 'antd'
import { Fragment, useState } from 'react'
import { useNavigate } from 'react-router'
import type { BuildingStep } from '../../../../contract/building.ts'
import { FURTHER_STEPS, LOOKS, type DraftedStep, type Look } from '../../../../core/shapes/building.ts'
import { call } from '../../../api/client.ts'
import { useRead, useWrite } from '../../../api/queries.ts'
import { useChanges } from '../../../shared/changes/use-changes.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { StepPreview } from '../../../shared/editor/step-preview.tsx'
import { errorText } from '../../../shared/words/error-text.ts'
import type { Building } from './use-building.ts'
import { useSkippedSteps } from './skipped-steps.ts'
import { words } from './words.ts'
import './building.css'

interface Props {
  building: Building
  walk(path: string): void
  hide(): void
}

export function StepsPane({ building, walk, hide }: Props) {
  const { steps, next } = building
  const { skipped, skip, take } = useSkippedSteps()
  const [chosen, setChosen] = useState<string | null>(null)
  const open = steps.find((one) => one.id === chosen && !one.isDone) ?? next
  /** Shows what the step has added, as the blog answers now. */
  const onDone = async (id: string) => {
    setChosen(null)
    const { steps: now } = await call('GET /api/building', {})
    const address = now.find((one) => one.id === id)?.address
    if (address) walk(address)
  }
  return (
    <section className="pane building" aria-label={words.title}>
      <header>
        <h2>{words.title}</h2>
        <span className="muted">{words.about}</span>
      </header>
      <ol className="scroll" aria-live="polite">
        {steps.map((step) => {
          const { title, about } = words.step[step.id]
          const isOpen = step === open
          const isSkipped = !step.isDone && skipped.includes(step.id)
          return (
            <Fragment key={step.id}>
              {step.id === FURTHER_STEPS[0] ? <li className="heading">{words.further}</li> : null}
              <li
                className={step.isDone ? 'done' : isOpen ? 'open' : isSkipped ? 'skipped' : ''}
                aria-current={isOpen ? 'step' : undefined}
              >
                <i />
                <h3>
                  {title} {isSkipped ? <span className="muted plain-weight">{words.skipped}</span> : null}
                  {isOpen || step.isDone ? null : (
                    <Button
                      size="small"
                      type="link"
                      aria-label={`${words.take}: ${title}`}
                      onClick={() => {
                        take(step.id)
                        setChosen(step.id)
                      }}
                    >
                      {words.take}
                    </Button>
                  )}
                </h3>
                <p>
                  {step.isDone ? null : about}{' '}
                  {step.evidence === null ? null : (
                    <span className={step.isDone ? 'proof' : 'missing'}>{step.evidence}.</span>
                  )}
                  {step.isDone && step.address !== null ? (
                    <>
                      {' '}
                      <Button size="small" type="link" onClick={() => walk(step.address ?? '/')}>
                        {words.walk}
                      </Button>
                    </>
                  ) : null}
                </p>
                {isOpen ? (
                  <OpenStep
                    key={step.id}
                    step={step}
                    onDone={() => void onDone(step.id)}
                    skip={() => skip(step.id)}
                  />
                ) : null}
              </li>
            </Fragment>
          )
        })}
      </ol>
      <footer>
        <span className="muted">{next ? words.undo : words.complete}</span>
        <span className="grow" />
        <Button size="small" type="link" onClick={hide}>
          {words.hide}
        </Button>
      </footer>
    </section>
  )
}

interface OpenProps {
  step: BuildingStep
  onDone(): void
  skip(): void
}

function OpenStep({ step, onDone, skip }: OpenProps) {
  return step.id === 'content' ? (
    <Content onDone={onDone} skip={skip} />
  ) : (
    <Drafted id={step.id} onDone={onDone} skip={skip} />
  )
}

type ActionProps = Omit<OpenProps, 'step'>

function Content({ onDone, skip }: ActionProps) {
  const write = useWrite()
  const notices = useNotices()
  const navigate = useNavigate()
  const [isAdding, setAdding] = useState(false)
  const add = async () => {
    setAdding(true)
    try {
      const { posts, drafts } = await write('POST /api/building/samples', {})
      notices.done(words.samplesDone(posts, drafts))
      onDone()
    } catch (error) {
      notices.failed(error)
    }
    setAdding(false)
  }
  return (
    <div className="actions">
      <Button type="primary" loading={isAdding} onClick={() => void add()}>
        {words.samples}
      </Button>
      <Button onClick={() => void navigate('/content/posts')}>{words.importPosts}</Button>
      <Button type="link" onClick={skip}>
        {words.skip}
      </Button>
    </div>
  )
}

function Drafted({ id, onDone, skip }: ActionProps & { id: DraftedStep }) {
  const [look, setLook] = useState<Look>('bench')
  const [isShown, setShown] = useState(false)
  const [isApplying, setApplying] = useState(false)
  const { apply } = useChanges()
  const draft = useRead('POST /api/building/draft', { body: { step: id, look } }, { retry: false, gcTime: 0 })
  const { steps = [], kept = [] } = draft.data ?? {}
  const created = steps.filter((one) => one.do === 'save-document' && one.basis === '').length
  const applyAll = async () => {
    setApplying(true)
    const isApplied = await apply(steps, words.step[id].done)
    setApplying(false)
    if (isApplied) onDone()
    else await draft.refetch()
  }
  return (
    <>
      {id === 'layout' ? (
        <div className="looks">
          <Segmented<Look>
            aria-label={words.look}
            value={look}
            options={LOOKS.map((one) => ({ value: one, label: words.looks[one][0] }))}
            onChange={setLook}
          />
          <span className="muted">{words.looks[look][1]}</span>
        </div>
      ) : null}
      {draft.isError ? (
        <p className="missing" role="alert">
          {errorText(draft.error)}
        </p>
      ) : null}
      {kept.length > 0 ? <p className="missing">{words.kept(kept)}</p> : null}
      <div className="actions">
        {isShown ? (
          <>
            <Button type="primary" loading={isApplying} onClick={() => void applyAll()}>
              {words.apply}
            </Button>
            <Button onClick={() => setShown(false)}>{words.cancel}</Button>
          </>
        ) : (
          <>
            <Button type="primary" disabled={steps.length === 0} onClick={() => setShown(true)}>
              {words.show}
            </Button>
            <Button type="link" onClick={skip}>
              {words.skip}
            </Button>
          </>
        )}
        <span className="muted">
          {draft.data === undefined
            ? ''
            : steps.length === 0
              ? words.nothing
              : words.documents(created, steps.length - created)}
        </span>
      </div>
      {isShown ? (
        <div className="change">
          {steps.map((one, index) => (
            <StepPreview key={index} step={one} />
          ))}
        </div>
      ) : null}
    </>
  )
}

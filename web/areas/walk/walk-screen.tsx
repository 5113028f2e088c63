/** The Walk area: an address, its page, and the reasons for every part of the page. */
import { App, Segmented } from 'antd'
import { useEffect } from 'react'
import { ApiProblem } from '../../api/client.ts'
import { stagesNeedingAttention, useAttention } from '../../shared/frame/attention.ts'
import { Crash } from '../../shared/frame/crash.tsx'
import type { Saved } from '../../shared/editor/use-document.ts'
import { useSession } from '../../shared/frame/session.ts'
import { formatClock } from '../../shared/words/format.ts'
import { StepsPane } from './building/steps-pane.tsx'
import { useSkippedSteps } from './building/skipped-steps.ts'
import { useBuilding } from './building/use-building.ts'
import { words as building } from './building/words.ts'
import { AddressLine } from './address-line.tsx'
import { Journey } from './journey.tsx'
import { PagePane } from './page-pane.tsx'
import { TrafficPane } from './traffic-pane.tsx'
import { useComparison, useWalk, useWalkAddress, VIEWS } from './use-walk.ts'
import { EMPTY, useSubmission } from './submission/use-submission.ts'
import { words } from './words.ts'
import './walk.css'

export function WalkScreen() {
  const session = useSession()
  if (!session.data) return null
  return <Screen start={session.data.start} origin={session.data.blog} />
}

function Screen({ start, origin }: { start: string; origin: string }) {
  const { message } = App.useApp()
  const { address, change } = useWalkAddress(start)
  const walked = useWalk(address)
  const { compared, compareWith } = useComparison()
  const noteStages = useAttention((state) => state.note)
  const submission = useSubmission(address.path)
  const isForm = address.as === 'commenter'
  const sent = isForm ? submission.walked : null
  const record = sent?.walk ?? walked.data
  const steps = useBuilding()
  const hideSteps = useSkippedSteps((state) => state.hide)
  const side = address.side ?? (steps?.isShownFirst && !isForm ? 'steps' : 'request')

  useEffect(() => {
    if (record) noteStages(stagesNeedingAttention(record))
    document.title = record ? `${record.target} · Esquina` : 'Esquina'
  }, [record, noteStages])

  const walk = (path: string, edit?: string, accepts = address.accepts) => {
    if (path === address.path && accepts === address.accepts && edit === undefined) {
      void walked.refetch()
      return
    }
    if (compared?.isFromSave) compareWith(null)
    change({
      path,
      accepts,
      edit: edit ?? null,
      line: undefined,
      ...(address.view === 'changes' ? { view: 'page' as const } : {}),
    })
  }
  const compare = () => {
    if (!record) return
    compareWith({ record, which: words.walkAt(formatClock(record.at)), isFromSave: false })
    void message.info(words.address.comparing)
  }
  const onSaved = ({ path, answer, isUndo }: Saved) => {
    compareWith(record && !isUndo ? { record, which: words.walkBefore(path), isFromSave: true } : null)
    if (answer.path !== path) change({ edit: answer.path })
    void walked.refetch()
  }

  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const { target } = event
      if (
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        (target instanceof HTMLElement &&
          (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)))
      )
        return
      const view = VIEWS[Number(event.key) - 1]
      if (event.key === 'r') void walked.refetch()
      else if (event.key === 'h') compare()
      else if (view !== undefined) change({ view })
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  })

  if (walked.error && !record)
    return (
      <Crash
        title={walked.error.message}
        detail={walked.error instanceof ApiProblem ? walked.error.details.detail : undefined}
        again={() => void walked.refetch()}
      />
    )
  return (
    <main className="walk">
      <h1 className="unseen">{words.title}</h1>
      <AddressLine
        path={address.path}
        origin={origin}
        record={record}
        isBusy={walked.isFetching}
        walk={walk}
        compare={compare}
        extra={
          steps?.next || side === 'steps' ? (
            <Segmented<'request' | 'steps'>
              className="side"
              aria-label={building.toggle}
              value={side}
              options={[
                { value: 'request', label: building.request },
                {
                  value: 'steps',
                  label: steps ? building.steps(steps.done, steps.steps.length) : building.title,
                },
              ]}
              onChange={(next) => change({ side: next })}
            />
          ) : null
        }
      />
      <div className="split">
        <PagePane
          record={sent?.next?.walk ?? record}
          compared={compared}
          origin={origin}
          address={address}
          change={change}
          walk={walk}
        />
        {side === 'steps' && steps ? (
          <StepsPane
            building={steps}
            walk={(path) => {
              // They stay, although the blog is no longer new.
              change({ path, side: 'steps', edit: null, line: undefined })
              if (path === address.path) void walked.refetch()
            }}
            hide={() => {
              hideSteps(true)
              change({ side: null })
            }}
          />
        ) : record ? (
          <Journey
            record={record}
            compared={compared}
            address={address}
            submission={submission}
            isBusy={walked.isFetching || submission.isBusy}
            change={change}
            onSaved={onSaved}
            stopComparing={() => compareWith(null)}
          />
        ) : (
          <section className="pane" />
        )}
      </div>
      <TrafficPane
        walk={(path, accepts) => walk(path, undefined, accepts)}
        walkForm={(path, typed) => {
          submission.reset()
          submission.type({ ...EMPTY, ...typed })
          change({ path, as: 'commenter', edit: null, line: undefined })
        }}
      />
    </main>
  )
}

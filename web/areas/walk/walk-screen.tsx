/** Walk: an address, its page, and why the page is so. */
import { useQueryClient } from '@tanstack/react-query'
import { App } from 'antd'
import { useEffect } from 'react'
import { useLocation } from 'react-router'
import { ApiProblem, call } from '../../api/client.ts'
import { Crash } from '../../shared/frame/crash.tsx'
import type { Saved } from '../../shared/editor/use-document.ts'
import { useSession } from '../../shared/frame/session.ts'
import { AddressLine } from './address-line.tsx'
import { stagesToLookAt, useAttention } from '../../shared/frame/attention.ts'
import { Journey } from './journey.tsx'
import { PagePane } from './page-pane.tsx'
import { TrafficPane } from './traffic-pane.tsx'
import { useHeld, useWalk, useWalkAddress, VIEWS } from './use-walk.ts'
import './walk.css'

export function WalkScreen() {
  const session = useSession()
  if (!session.data) return null
  return <Screen start={session.data.start} origin={session.data.blog} />
}

function Screen({ start, origin }: { start: string; origin: string }) {
  const { message } = App.useApp()
  const client = useQueryClient()
  const { search } = useLocation()
  const { address, change } = useWalkAddress(start)
  const walked = useWalk(address)
  const held = useHeld()
  const note = useAttention((state) => state.note)
  const record = walked.data

  useEffect(() => {
    if (record) note(stagesToLookAt(record), `/walk${search}`)
    document.title = record ? `${record.target} · Esquina` : 'Esquina'
  }, [record, note, search])

  const walk = (path: string, edit?: string, gets = address.gets) => {
    if (path === address.path && gets === address.gets && edit === undefined) {
      void walked.refetch()
      return
    }
    // What a save changed is told for the address that was being looked at; a walk held by hand stays.
    if (held.lastSave) held.forget()

    change({
      path,
      gets,
      edit: edit ?? null,
      line: undefined,
      ...(address.view === 'changes' ? { view: 'page' as const } : {}),
    })
  }
  const hold = () => {
    if (!record) return
    held.hold(record, `at ${new Date(record.at).toLocaleTimeString('en-GB')}`)
    void message.info('Held as “before”. Walk again, or another address, to see what is different.')
  }
  const saved = (save: Saved) => {
    held.saved(record, save)
    if (save.answer.path !== save.path) change({ edit: save.answer.path })
    // The page first; what else the save may have changed can wait for it.
    void walked.refetch().then(() => client.invalidateQueries({ queryKey: ['suggestions'] }))
  }
  const undo = async () => {
    const { lastSave } = held
    if (!lastSave) return
    const { path, version } = lastSave.answer
    try {
      const answer = await call('PUT /api/document', { body: { path, text: lastSave.previous, version } })
      client.setQueryData(['document', answer.path], {
        path: answer.path,
        text: lastSave.previous,
        version: answer.version,
      })
      held.forget()
      if (address.edit === path && answer.path !== path) change({ edit: answer.path })
      void message.success(`${answer.path} is as it was`)
      void walked.refetch()
    } catch (error) {
      void message.error(error instanceof ApiProblem ? error.message : 'It could not be undone')
    }
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
      else if (event.key === 'h') hold()
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
      <h1 className="unseen">Walk</h1>
      <AddressLine
        path={address.path}
        origin={origin}
        record={record}
        busy={walked.isFetching}
        walk={walk}
        hold={hold}
      />
      <div className="split">
        <PagePane
          record={record}
          before={held.before}
          origin={origin}
          address={address}
          change={change}
          walk={walk}
        />
        {record ? (
          <Journey
            record={record}
            before={held.before}
            lastSave={held.lastSave}
            address={address}
            busy={walked.isFetching}
            change={change}
            saved={saved}
            undo={() => void undo()}
            forget={held.forget}
          />
        ) : (
          <section className="pane" />
        )}
      </div>
      <TrafficPane walk={(path, gets) => walk(path, undefined, gets)} />
    </main>
  )
}

/** The top line: the stages of a request as stops, and the other areas. */
import { Button, Dropdown } from 'antd'
import { lazy, Suspense, useState } from 'react'
import { NavLink } from 'react-router'
import type { Session } from '../../../contract/session.ts'
import { forgetSecret, send } from '../../api/client.ts'
import { useAttention, type StageName } from './attention.ts'
import { useChecks } from '../changes/checks.ts'
import { useWaiting } from './waiting.ts'
import { usePalette } from '../palette/palette.tsx'
import { words } from '../words/words.ts'
import { useLastAddresses } from './last-address.ts'
import { useTheme, type ThemeChoice } from './theme.ts'
import './top-line.css'

const { frame } = words

const SessionList = lazy(async () => ({ default: (await import('./session-list.tsx')).SessionList }))

const STOPS = [
  { to: '/routes', label: frame.routes, stage: 'route' },
  { to: '/queries', label: frame.queries, stage: 'queries' },
  { to: '/templates', label: frame.templates, stage: 'templates' },
  { to: '/cache', label: frame.cache, stage: 'fragments' },
  { to: '/comments', label: frame.comments, stage: 'submission' },
] as const

const THEMES: readonly { key: ThemeChoice; label: string }[] = [
  { key: 'light', label: frame.light },
  { key: 'dark', label: frame.dark },
  { key: 'system', label: frame.system },
]

export function TopLine({ session }: { session: Session }) {
  const attention = useAttention((state) => state.stages)
  const isNoted = (stage: StageName) => attention.includes(stage)
  const last = useLastAddresses((state) => state.of)
  const leftAt = (area: string) => last[area] ?? area
  const openPalette = usePalette((state) => state.open)
  const { choice, choose } = useTheme()
  const { report } = useChecks()
  const waiting = useWaiting()
  const running = report?.finishedAt === null && report.running !== null
  const open =
    report?.finishedAt === null && !running
      ? undefined
      : report?.findings.filter((one) => one.dismissed === null && !one.isOutdated).length
  const [isSessionsOpen, setSessionsOpen] = useState(false)
  const signOut = () =>
    void send('POST', '/api/sign-out').then(() => {
      forgetSecret()
      window.location.assign('/')
    })
  const items = [
    {
      key: 'theme',
      label: frame.theme,
      children: THEMES.map(({ key, label }) => ({ key, label, onClick: () => choose(key) })),
    },
    { key: 'keys', label: frame.keyboard, extra: '?', onClick: () => openPalette('keys') },
    {
      key: 'api',
      label: (
        <a href="/api/openapi.json" target="_blank">
          {frame.api}
        </a>
      ),
    },
    { key: 'sessions', label: frame.sessions, onClick: () => setSessionsOpen(true) },
    { key: 'out', label: frame.signOut, onClick: signOut },
  ]
  return (
    <header className="top">
      {isSessionsOpen ? (
        <Suspense>
          <SessionList close={() => setSessionsOpen(false)} />
        </Suspense>
      ) : null}
      <NavLink to={leftAt('/walk')} className="logo" aria-label={`Esquina: ${frame.toWalk}`}>
        ESQUINA
      </NavLink>
      <nav className="line" aria-label={frame.areas}>
        <NavLink to={leftAt('/walk')} className="walk-link">
          {frame.walk}
        </NavLink>
        <ol className="stops">
          {STOPS.map(({ to, label, stage }) => (
            <li key={to}>
              <NavLink
                to={leftAt(to)}
                className={({ isActive }) => `stop${isActive ? ' on' : ''}${isNoted(stage) ? ' warn' : ''}`}
              >
                <i aria-hidden="true" />
                <span className="label">
                  {label}
                  {to === '/comments' && waiting > 0 ? (
                    <span className="count look" title={frame.waiting(waiting)}>
                      {waiting}
                    </span>
                  ) : null}
                </span>
                {isNoted(stage) ? <span className="unseen">{frame.attention}</span> : null}
              </NavLink>
            </li>
          ))}
        </ol>
        <NavLink to={leftAt('/content')} className="walk-link beside-line">
          {frame.content}
        </NavLink>
        <NavLink to={leftAt('/changes')} className="walk-link beside-line">
          {frame.changes}
        </NavLink>
        <NavLink to={leftAt('/checks')} className="walk-link beside-line">
          {frame.checks}{' '}
          {open === undefined ? null : (
            <span className={`count ${open > 0 ? 'some' : 'none'}`} title={frame.findings(open)}>
              {running ? '…' : open}
            </span>
          )}
        </NavLink>
      </nav>
      <div className="right">
        <a className="blog-link" href={session.blog} target="_blank" rel="noreferrer" title={frame.openBlog}>
          {session.title} <span aria-hidden="true">↗</span>
        </a>
        <Button onClick={() => openPalette('find')} aria-keyshortcuts="Control+K">
          {frame.find} <kbd>Ctrl K</kbd>
        </Button>
        <Dropdown menu={{ items, selectable: true, selectedKeys: [choice] }} trigger={['click']}>
          <Button aria-label={frame.settings}>{frame.workbench}</Button>
        </Dropdown>
      </div>
    </header>
  )
}

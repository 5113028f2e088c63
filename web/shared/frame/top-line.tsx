/** The top line: the request's own path as stops, and what is beside it. */
import { Button, Dropdown } from 'antd'
import { NavLink } from 'react-router'
import type { Session } from '../../../contract/operations.ts'
import { send } from '../../api/client.ts'
import { useAttention } from './attention.ts'
import { useChecks } from '../changes/checks.ts'
import { usePalette } from '../palette/palette.tsx'
import { useTheme, type ThemeChoice } from './theme.ts'
import './top-line.css'

const STOPS = [
  { to: '/routes', label: 'Routes', stage: 'route' },
  { to: '/queries', label: 'Queries', stage: 'queries' },
  { to: '/templates', label: 'Templates', stage: 'templates' },
  { to: '/cache', label: 'Cache', stage: 'fragments' },
] as const

const THEMES: readonly { key: ThemeChoice; label: string }[] = [
  { key: 'light', label: 'Light' },
  { key: 'dark', label: 'Dark' },
  { key: 'system', label: 'As the system' },
]

export function TopLine({ session }: { session: Session }) {
  const attention = useAttention((state) => state.stages)
  const walkAddress = useAttention((state) => state.walkAddress)
  const openPalette = usePalette((state) => state.open)
  const { choice, choose } = useTheme()
  const { report } = useChecks()
  const running = report?.finishedAt === null && report.running !== null
  const open =
    report?.finishedAt === null && !running
      ? undefined
      : report?.findings.filter((one) => one.aside === null).length
  const signOut = () => void send('POST', '/api/sign-out').then(() => window.location.assign('/'))
  const items = [
    {
      key: 'theme',
      label: 'Theme',
      children: THEMES.map(({ key, label }) => ({ key, label, onClick: () => choose(key) })),
    },
    { key: 'keys', label: 'Keyboard', extra: '?', onClick: () => openPalette('keys') },
    {
      key: 'api',
      label: (
        <a href="/api/openapi.json" target="_blank">
          The API’s description
        </a>
      ),
    },
    { key: 'out', label: 'Sign out', onClick: signOut },
  ]
  return (
    <header className="top">
      <NavLink to={walkAddress} className="logo" aria-label="Esquina, to the walk">
        ESQUINA
      </NavLink>
      <nav className="line" aria-label="Areas">
        <NavLink to={walkAddress} className="walk-link">
          Walk
        </NavLink>
        <ol className="stops">
          {STOPS.map(({ to, label, stage }) => (
            <li key={to}>
              <NavLink
                to={to}
                className={({ isActive }) =>
                  `stop${isActive ? ' on' : ''}${attention.includes(stage) ? ' warn' : ''}`
                }
              >
                <i aria-hidden="true" />
                {label}
                {attention.includes(stage) ? (
                  <span className="unseen">, something to look at in the last walk</span>
                ) : null}
              </NavLink>
            </li>
          ))}
        </ol>
        <NavLink to="/content" className="walk-link beside-line">
          Content
        </NavLink>
        <NavLink to="/checks" className="walk-link beside-line">
          Checks{' '}
          {open === undefined ? null : (
            <span
              className={`count ${open > 0 ? 'some' : 'none'}`}
              title={open > 0 ? 'findings' : 'nothing found'}
            >
              {running ? '…' : open}
            </span>
          )}
        </NavLink>
      </nav>
      <div className="right">
        <a
          className="blog-link"
          href={session.blog}
          target="_blank"
          rel="noreferrer"
          title="Open the blog as readers see it"
        >
          {session.title} <span aria-hidden="true">↗</span>
        </a>
        <Button onClick={() => openPalette('find')} aria-keyshortcuts="Control+K">
          Find <kbd>Ctrl K</kbd>
        </Button>
        <Dropdown menu={{ items, selectable: true, selectedKeys: [choice] }} trigger={['click']}>
          <Button aria-label="Workbench settings">Workbench</Button>
        </Dropdown>
      </div>
    </header>
  )
}

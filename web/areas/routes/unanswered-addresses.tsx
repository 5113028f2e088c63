/** Addresses that readers asked for in vain, how often, and what they may have meant. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import { Link } from 'react-router'
import { addRoute } from '../../../core/blog/edit.ts'
import { call } from '../../api/client.ts'
import { storedDocument, useApply } from '../../shared/changes/apply.ts'
import { plural } from '../../shared/words/words.ts'

export function UnansweredAddresses() {
  const client = useQueryClient()
  const { save } = useApply()
  const list = useQuery({
    queryKey: ['unanswered'],
    queryFn: () => call('GET /api/unanswered', {}),
    refetchInterval: 5_000,
  })
  const forget = async (path: string) => {
    await call('DELETE /api/unanswered', { query: { path } })
    await client.invalidateQueries({ queryKey: ['unanswered'] })
  }
  const redirect = async (from: string, to: string) => {
    const { text } = await storedDocument('routes.yaml')
    const name = `old${from
      .replace(/[^a-z0-9]+/gi, '-')
      .toLowerCase()
      .replace(/-$/, '')
      .slice(0, 50)}`
    const changed = addRoute(
      text,
      { name, path: from.replace(/[:*+?(){}\\]/g, '\\$&'), redirect: { to } },
      firstName(text),
    )
    if (changed !== undefined && (await save({ 'routes.yaml': changed }, `${from} leads to ${to}`)))
      await forget(from)
  }
  const all = list.data ?? []
  if (all.length === 0)
    return (
      <p className="quiet small">
        {list.isPending
          ? 'Looking …'
          : 'Nobody has asked for an address that is not there. Such addresses are counted here, without their queries.'}
      </p>
    )
  return (
    <ul className="trials">
      {all.map(({ path, times, nearest }) => (
        <li key={path}>
          <Link to={`/walk?path=${encodeURIComponent(path)}`} title="Walk it">
            <code>{path}</code>
          </Link>
          <span className="number">{plural(times, 'time')}</span>
          <span className="muted">
            {nearest ? (
              <>
                meant{' '}
                <Link
                  to={`/walk?path=${encodeURIComponent(nearest.path)}`}
                  title={nearest.title ?? undefined}
                >
                  {nearest.path}
                </Link>
                ?{' '}
                <Button size="small" onClick={() => void redirect(path, nearest.path)}>
                  Lead it there
                </Button>
              </>
            ) : (
              'like nothing that is there'
            )}{' '}
            <Button size="small" type="text" onClick={() => void forget(path)}>
              Forget
            </Button>
          </span>
        </li>
      ))}
    </ul>
  )
}

const firstName = (text: string) => /^- name: ([a-z0-9-]+)/m.exec(text)?.[1]

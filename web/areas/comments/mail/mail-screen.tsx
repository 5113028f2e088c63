/** E-mail about comments: the queue, failures, and each message as the test server received it. */
import { Button } from 'antd'
import { useState, type ReactNode } from 'react'
import { Link } from 'react-router'
import { ageInWords } from '../../../../core/content/age.ts'
import type { MailItem } from '../../../../contract/mail.ts'
import { useRead, useWrite } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { Chip, Copy, type Tone } from '../../../shared/marks/marks.tsx'
import { SearchField } from '../../../shared/search/search-field.tsx'
import { formatDateTime } from '../../../shared/words/format.ts'
import { words } from './words.ts'
import './mail.css'

const STATES = ['waiting', 'sent', 'failed', 'dropped'] as const
const TONES: Readonly<Record<MailItem['state'], Tone>> = {
  waiting: 'look',
  sent: 'fine',
  failed: 'fail',
  dropped: 'plain',
}
/** The interval at which the list is read again, in milliseconds. E-mails are sent in the background. */
const AGAIN = 3_000

interface Props {
  state: string | undefined
  search: string
  chosen: number | null
  /** Changes the address; null removes a parameter. */
  change(changes: Readonly<Record<string, string | null>>): void
}

export function MailScreen({ state: wanted, search, chosen, change }: Props) {
  const state = STATES.find((one) => one === wanted)
  const read = useRead(
    'GET /api/comments/emails',
    { query: { ...(state === undefined ? {} : { state }), ...(search === '' ? {} : { search }) } },
    { placeholderData: (known) => known, refetchInterval: AGAIN },
  )
  const retry = useRetry()
  const emails = read.data?.emails ?? []
  const counts = read.data?.counts
  const open = chosen ?? emails[0]?.id ?? null
  const failed = emails.filter((one) => one.state === 'failed')
  const isFiltered = state !== undefined || search !== ''
  return (
    <main className="comments mail">
      <section className="pane queue" aria-label={words.list}>
        <header>
          <Button
            type="text"
            size="small"
            onClick={() => change({ state: null, 'mail-state': null, mail: null, search: null })}
          >
            ← {words.back}
          </Button>
          <h1>{words.title}</h1>
        </header>
        <nav className="tabs" aria-label={words.title}>
          <button
            type="button"
            aria-current={state === undefined ? 'page' : undefined}
            onClick={() => change({ 'mail-state': null, mail: null })}
          >
            {words.all}
          </button>
          {STATES.map((one) => (
            <button
              key={one}
              type="button"
              aria-current={one === state ? 'page' : undefined}
              onClick={() => change({ 'mail-state': one, mail: null })}
            >
              {words.states[one]} {counts ? <b>{counts[one].toLocaleString('en-GB')}</b> : null}
            </button>
          ))}
        </nav>
        <div className="looking">
          <SearchField
            label={words.search}
            help={words.searchHelp}
            value={search}
            change={(text) => change({ search: text || null, mail: null })}
          />
        </div>
        <ul className="scroll">
          {emails.map((one) => (
            <li key={one.id} className={one.id === open ? 'on' : ''}>
              <button
                type="button"
                aria-current={one.id === open}
                onClick={() => change({ mail: String(one.id) })}
              >
                <span className="who">
                  <b>{one.subject || words.unknownSubject}</b>
                  <time dateTime={one.done ?? one.at} title={formatDateTime(one.done ?? one.at)}>
                    {ageInWords(new Date(one.done ?? one.at), new Date())}
                  </time>
                </span>
                <span className="said mono">{one.to}</span>
                <span className="marks">
                  <Chip tone={TONES[one.state]}>{words.states[one.state]}</Chip>
                  <Chip>{words.kinds[one.kind]}</Chip>
                </span>
              </button>
            </li>
          ))}
          {read.error ? (
            <li className="quiet small">{read.error.message}</li>
          ) : emails.length === 0 && !read.isLoading ? (
            <li className="quiet small">
              {isFiltered ? (
                <>
                  {words.noMatch}{' '}
                  <button
                    type="button"
                    className="link"
                    onClick={() => change({ 'mail-state': null, search: null })}
                  >
                    {words.clear}
                  </button>
                </>
              ) : (
                words.empty
              )}
            </li>
          ) : null}
          {read.data?.isMore === true ? <li className="quiet small">{words.cut(emails.length)}</li> : null}
        </ul>
        <footer>
          <span>{read.data ? words.subscribers(read.data.subscribers) : ''}</span>
          <span className="grow" />
          {failed.length > 1 ? (
            <Button size="small" onClick={() => void retry(failed)}>
              {words.retryAll(failed.length)}
            </Button>
          ) : null}
        </footer>
      </section>
      <section className="pane thread" aria-label={words.title}>
        {read.data ? (
          <p className="where">
            {read.data.isStandIn ? words.standIn : words.real(read.data.target)}{' '}
            <span className="muted">
              {words.from} <code>{read.data.from}</code>
            </span>
          </p>
        ) : null}
        {open === null ? (
          <p className="quiet">{read.isLoading ? words.loading : words.choose}</p>
        ) : (
          <Message id={open} retry={retry} />
        )}
      </section>
    </main>
  )
}

function useRetry() {
  const write = useWrite()
  const notices = useNotices()
  return async (emails: readonly MailItem[]) => {
    try {
      const { retried } = await write('POST /api/comments/emails/retry', {
        body: { emails: emails.map((one) => one.id) },
      })
      notices.done(words.retried(retried))
    } catch (error) {
      notices.failed(error)
    }
  }
}

function Message({ id, retry }: { id: number; retry(emails: readonly MailItem[]): Promise<void> }) {
  const { data, error } = useRead(
    'GET /api/comments/email',
    { query: { id: String(id) } },
    {
      placeholderData: (known) => known,
      refetchInterval: ({ state: { data } }) => data?.mail.state === 'waiting' && AGAIN,
    },
  )
  const [hasHeaders, setHeaders] = useState(false)
  if (!data) return <p className="quiet">{error?.message ?? words.loading}</p>
  const { mail, message } = data
  return (
    <div className="scroll message">
      <div className="heading">
        <h2>{mail.subject || words.unknownSubject}</h2>
        <Chip tone={TONES[mail.state]}>{words.states[mail.state]}</Chip>
        <span className="grow" />
        {mail.state === 'failed' ? (
          <Button size="small" type="primary" onClick={() => void retry([mail])}>
            {words.retry}
          </Button>
        ) : null}
      </div>
      <dl className="facts">
        <Fact name={words.to}>
          <span className="mono">{mail.to}</span>
        </Fact>
        <Fact name={words.queued}>{formatDateTime(mail.at)}</Fact>
        {mail.done === null ? null : (
          <Fact name={mail.state === 'sent' ? words.sent : words.ended}>{formatDateTime(mail.done)}</Fact>
        )}
        {mail.tries > 1 ? <Fact name={words.attempts}>{mail.tries}</Fact> : null}
        {mail.next === null ? null : <Fact name={words.next}>{formatDateTime(mail.next)}</Fact>}
        {mail.problem === null ? null : <Fact name={words.problem}>{mail.problem}</Fact>}
        {mail.comment === null ? null : (
          <Fact name={words.about}>
            <Link className="link" to={`/comments?state=shown&comment=${mail.comment}`}>
              {words.openComment(mail.comment)}
            </Link>
          </Fact>
        )}
      </dl>
      {message ? (
        <>
          <div className="heading">
            <h3>{words.text}</h3>
            <Copy text={message.text} what={words.theText} />
            <span className="grow" />
            <button
              type="button"
              className="link"
              aria-expanded={hasHeaders}
              onClick={() => setHeaders(!hasHeaders)}
            >
              {hasHeaders ? words.hideHeaders : words.showHeaders}
            </button>
          </div>
          {hasHeaders ? (
            <dl className="headers mono">
              {message.headers.map(({ name, value }, index) => (
                <div key={index}>
                  <dt>{name}</dt>
                  <dd>{value}</dd>
                </div>
              ))}
            </dl>
          ) : null}
          <pre>
            <WithLinks text={message.text} />
          </pre>
        </>
      ) : (
        <p className="muted">{mail.state === 'sent' ? words.notKept : words.notSent}</p>
      )}
    </div>
  )
}

const Fact = ({ name, children }: { name: string; children: ReactNode }) => (
  <div>
    <dt>{name}</dt>
    <dd>{children}</dd>
  </div>
)

/** Shows web addresses as links, as mail programs do. */
function WithLinks({ text }: { text: string }) {
  return text.split(/(https?:\/\/[^\s<>]+)/).map((part, index) =>
    index % 2 === 1 ? (
      <a key={index} className="link" href={part} target="_blank" rel="noreferrer noopener">
        {part}
      </a>
    ) : (
      part
    ),
  )
}

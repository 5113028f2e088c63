/** One finding: its witness, why it is so, and the mend as a change before it is applied. */
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Button, Input } from 'antd'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import type { Mend } from '../../../core/checks/finding.ts'
import type { CheckFinding, CheckReport } from '../../../contract/operations.ts'
import { call } from '../../api/client.ts'
import { storedDocument, useApply } from '../../shared/changes/apply.ts'
import { DocumentDiff } from '../../shared/editor/diff.tsx'
import { documentLink } from '../../shared/editor/documents.ts'
import { Chip, Plate } from '../../shared/marks/marks.tsx'
import { plural } from '../../shared/words/words.ts'

const walkTo = (address: string) => `/walk?path=${encodeURIComponent(address)}`

export function FindingDetail({
  finding,
  rule,
}: {
  finding: CheckFinding
  rule: CheckReport['rules'][number] | undefined
}) {
  const { mend } = useApply()
  const navigate = useNavigate()
  const [chosen, setChosen] = useState(0)
  const [applying, setApplying] = useState(false)
  const [whole, setWhole] = useState(false)
  const { witness, place, also, mends } = finding
  const one = mends[chosen] ?? mends[0]
  const apply = async () => {
    if (!one) return
    setApplying(true)
    await mend(one)
    setApplying(false)
  }
  const shown = whole ? also : also.slice(0, 3)
  return (
    <section className="pane finding" aria-label="The finding">
      <header>
        <h2>{finding.title}</h2>
      </header>
      <div className="scroll">
        <dl>
          <dt>Witness</dt>
          <dd>
            {witness.address === null ? null : (
              <p>
                <Link to={walkTo(witness.address)} title="Walk it">
                  <Plate pattern={witness.address} />
                </Link>
              </p>
            )}
            <p>
              {witness.text}
              {witness.got === null ? null : (
                <>
                  : <Chip tone="fail">{witness.got}</Chip>
                </>
              )}
              {witness.expected === null ? null : (
                <>
                  {' '}
                  expected <Chip tone="fine">{witness.expected}</Chip>
                </>
              )}
            </p>
          </dd>
          <dt>Because</dt>
          <dd>
            <p>{finding.because}</p>
            {place ? (
              <p>
                <button
                  className="link mono"
                  onClick={() => void navigate(documentLink(place.document, place.line))}
                >
                  {place.document}
                  {place.line === null ? '' : `:${place.line}`}
                </button>
              </p>
            ) : null}
          </dd>
          {also.length > 0 ? (
            <>
              <dt>Also</dt>
              <dd>
                <ul>
                  {shown.map((text) => (
                    <li key={text}>
                      {text.startsWith('/') ? <Link to={walkTo(text)}>{text}</Link> : <code>{text}</code>}
                    </li>
                  ))}
                </ul>
                {also.length > shown.length ? (
                  <button className="link" onClick={() => setWhole(true)}>
                    and {plural(also.length - shown.length, 'more', 'more')}
                  </button>
                ) : null}
              </dd>
            </>
          ) : null}
          <dt>Mend</dt>
          <dd>
            {one ? (
              <>
                {mends.length > 1 ? (
                  <div className="choices" role="radiogroup" aria-label="Ways to mend it">
                    {mends.map((each, index) => (
                      <button
                        key={each.label}
                        role="radio"
                        aria-checked={each === one}
                        onClick={() => setChosen(index)}
                      >
                        {each.label}
                      </button>
                    ))}
                  </div>
                ) : (
                  <p>{one.label}.</p>
                )}
                <MendPreview mend={one} />
                <p className="muted">After it: {one.after}</p>
              </>
            ) : (
              <p className="muted">There is no mend that could be made for you: the place is named above.</p>
            )}
          </dd>
        </dl>
        <div className="row actions">
          {one ? (
            <Button type="primary" loading={applying} onClick={() => void apply()}>
              Apply the mend
            </Button>
          ) : null}
          {witness.address === null ? null : (
            <Button onClick={() => void navigate(walkTo(witness.address ?? '/'))}>Walk the witness</Button>
          )}
          <span className="grow" />
          <SetAside finding={finding} />
        </div>
        {rule ? (
          <p className="why muted">
            {rule.why} <Link to={`/checks?rule=${rule.id}`}>Why this check</Link>
          </p>
        ) : null}
      </div>
    </section>
  )
}

function MendPreview({ mend }: { mend: Mend }) {
  const before = useQuery({
    queryKey: ['document', 'before', ...mend.changes.map((one) => one.document)],
    queryFn: async () =>
      Object.fromEntries(
        await Promise.all(
          mend.changes.map(
            async ({ document }) => [document, (await storedDocument(document)).text] as const,
          ),
        ),
      ),
    enabled: mend.changes.length > 0,
  })
  if (mend.remove)
    return (
      <p className="mono">
        {mend.remove.kind}: {mend.remove.slug} goes; it can be put back for 30 days
      </p>
    )
  if (mend.slug)
    return (
      <p className="mono">
        {mend.slug.kind}: {mend.slug.from} → {mend.slug.to}
      </p>
    )
  return mend.changes.map(({ document, text }) =>
    before.data ? (
      <DocumentDiff key={document} document={document} before={before.data[document] ?? ''} after={text} />
    ) : null,
  )
}

function SetAside({ finding }: { finding: CheckFinding }) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const [asking, setAsking] = useState(false)
  const [reason, setReason] = useState('')
  const { rule, subject, aside } = finding
  const put = async () => {
    client.setQueryData(
      ['checks'],
      await call('PUT /api/checks/aside', { body: { rule, subject, reason: reason.trim() } }),
    )
    setAsking(false)
    // It stays in view, now among those set aside.
    void navigate(`/checks?finding=${encodeURIComponent(`${rule} ${subject}`)}`)
  }
  const takeUp = async () => {
    client.setQueryData(['checks'], await call('DELETE /api/checks/aside', { query: { rule, subject } }))
  }
  if (aside) return <Button onClick={() => void takeUp()}>Take it up again</Button>
  if (!asking) return <Button onClick={() => setAsking(true)}>Set aside …</Button>
  return (
    <form
      className="row"
      onSubmit={(event) => {
        event.preventDefault()
        void put()
      }}
    >
      <Input
        autoFocus
        size="small"
        aria-label="Why it is set aside"
        placeholder="why"
        value={reason}
        maxLength={500}
        onChange={(event) => setReason(event.target.value)}
      />
      <Button size="small" htmlType="submit" type="primary" disabled={reason.trim() === ''}>
        Set aside
      </Button>
      <Button size="small" onClick={() => setAsking(false)}>
        No
      </Button>
    </form>
  )
}

export function RuleDetail({
  rule,
  proven,
}: {
  rule: CheckReport['rules'][number]
  proven: CheckReport['proven'][number] | undefined
}) {
  return (
    <section className="pane finding" aria-label="The check">
      <header>
        <h2>
          <code>{rule.id}</code>
        </h2>
      </header>
      <div className="scroll">
        <dl>
          <dt>Finds</dt>
          <dd>{rule.meaning}</dd>
          <dt>Why</dt>
          <dd>{rule.why}</dd>
          <dt>Now</dt>
          <dd>
            {proven
              ? `${proven.sentence}: ${proven.count}.`
              : 'There was nothing to look at, or something was found.'}
          </dd>
        </dl>
      </div>
    </section>
  )
}

/** Where comments are kept: in the blog, or by an outside service, to which and from which they can be copied. */
import { Button, Input } from 'antd'
import { useState } from 'react'
import { commentRules } from '../../../../core/comments/rules.ts'
import { TEST_SERVICE, THREAD_IDENTIFIERS } from '../../../../core/comments/outside.ts'
import type { CommentRules } from '../../../../core/shapes/comment-rules.ts'
import { useRead, useWrite } from '../../../api/queries.ts'
import { useNotices } from '../../../shared/changes/notices.tsx'
import { Choice, Line, type RulesProps } from '../rule-fields.tsx'
import { words } from './words.ts'

const PLACES = ['here', 'test', 'other'] as const
type Place = (typeof PLACES)[number]

const placeOf = ({ outside }: CommentRules): Place =>
  outside === undefined ? 'here' : outside.service === TEST_SERVICE ? 'test' : 'other'

export function OutsidePart({ rules, set }: RulesProps) {
  const { outside } = rules
  const place = placeOf(rules)
  const now = commentRules(rules).outside
  const change = (changes: Partial<NonNullable<CommentRules['outside']>>) =>
    set({ outside: { service: '', ...outside, ...changes } })
  return (
    <fieldset>
      <legend>{words.title}</legend>
      <Line label={words.kept}>
        <Choice
          label={words.kept}
          value={place}
          options={PLACES.map((one) => [one, words.places[one]])}
          set={(wanted) =>
            set({
              outside:
                wanted === 'here'
                  ? undefined
                  : { ...outside, service: wanted === 'test' ? TEST_SERVICE : words.originHelp },
            })
          }
        />
      </Line>
      {outside === undefined || now === null ? null : (
        <>
          {place === 'other' ? (
            <Line label={words.origin}>
              <Input
                size="small"
                aria-label={words.origin}
                placeholder={words.originHelp}
                value={outside.service}
                onChange={(event) => change({ service: event.target.value.trim() })}
              />
            </Line>
          ) : null}
          <Line label={words.site}>
            <Input
              size="small"
              aria-label={words.site}
              value={now.site}
              onChange={(event) => change({ site: event.target.value.trim() })}
            />
          </Line>
          <Line label={words.identifier}>
            <Choice
              label={words.identifier}
              value={now.identifier}
              options={THREAD_IDENTIFIERS.map((one) => [one, words.identifiers[one]])}
              set={(identifier) => change({ identifier })}
            />
          </Line>
          {now.identifier === 'id' ? null : <p className="warn">{words.changes}</p>}
          <p className="muted">{words.elsewhere}</p>
          <Copying rules={rules} />
        </>
      )}
    </fieldset>
  )
}

/** Copies comments between the blog and the service that is in force. */
function Copying({ rules }: { rules: CommentRules }) {
  const stored = useRead('GET /api/comments/rules', {})
  const isInForce = JSON.stringify(stored.data?.rules.outside) === JSON.stringify(rules.outside)
  const counts = useRead('GET /api/comments/outside', {}, { enabled: isInForce, staleTime: 0 })
  const write = useWrite()
  const notices = useNotices()
  const [isBusy, setBusy] = useState(false)
  const run = async (work: () => Promise<void>) => {
    setBusy(true)
    try {
      await work()
    } catch (error) {
      notices.failed(error)
    }
    setBusy(false)
  }
  if (!isInForce) return <p className="muted">{words.saveFirst}</p>
  const { here, there, problem } = counts.data ?? { here: 0, there: null, problem: null }
  const button = (label: string, work: () => Promise<void>) => (
    <Button size="small" loading={isBusy} disabled={there === null} onClick={() => void run(work)}>
      {label}
    </Button>
  )
  return (
    <>
      <p role="status">{counts.data ? words.counts(here, there) : ''}</p>
      {problem === null ? null : <p className="warn">{problem}</p>}
      <div className="buttons">
        {button(words.send, async () => {
          const { added, known } = await write('POST /api/comments/outside/send', { body: {} })
          notices.done(words.sent(added, known))
        })}
        {button(words.fetch, async () => {
          const { imported, known, lost, step, purged } = await write('POST /api/comments/outside/fetch', {
            body: {},
          })
          notices.done(
            words.fetched(imported, known, lost),
            step === null ? undefined : () => write('POST /api/step/undo', { body: { id: step } }),
            { purged },
          )
        })}
      </div>
    </>
  )
}

/** Why a comment waits, what its writer did before, and the rules in force. */
import { App, Button } from 'antd'
import type { CommentDetail } from '../../../contract/comments.ts'
import { commentRules } from '../../../core/comments/rules.ts'
import { WordWeights } from '../../shared/marks/word-weights.tsx'
import { useRead } from '../../api/queries.ts'
import { ruleSentences } from './rules-words.ts'
import { formatDateTime } from '../../shared/words/format.ts'
import { words as shared } from '../../shared/words/words.ts'
import type { Moderation } from './use-moderation.ts'
import { words } from './words.ts'

interface Props {
  comment: CommentDetail
  moderation: Moderation
  change(changes: Readonly<Record<string, string | null>>): void
}

export function CommentReasons({ comment, moderation, change }: Props) {
  const { modal } = App.useApp()
  const { reasons, score, state, writer } = comment
  const total = writer.shown + writer.waiting + writer.spam + writer.deleted
  const erase = () =>
    modal.confirm({
      title: words.eraseTitle,
      content: words.eraseText(total + 1),
      okText: words.eraseNow,
      okButtonProps: { danger: true },
      cancelText: shared.cancel,
      onOk: async () => {
        if (await moderation.erase(comment.id)) change({ comment: null })
      },
    })
  return (
    <aside className="pane reasons" aria-label={words.why[state]}>
      <div className="scroll">
        <h2>{words.why[state]}</h2>
        <div className="part">
          {reasons.length === 0 ? (
            <p>{state === 'spam' || state === 'deleted' ? words.decided : words.noReasons}</p>
          ) : null}
          <ul>
            {reasons
              .filter((one) => one.code !== 'score')
              .map((one) => (
                <li key={one.code}>{words.reason(one)}</li>
              ))}
          </ul>
          <Score comment={comment} score={score} />
        </div>
        <h2>{words.writer}</h2>
        <dl className="part facts">
          {comment.email === '' ? null : (
            <div>
              <dt>{words.email}</dt>
              <dd className="mono">{comment.email}</dd>
            </div>
          )}
          {comment.site === '' ? null : (
            <div>
              <dt>{words.site}</dt>
              <dd className="mono">{comment.site}</dd>
            </div>
          )}
          <div>
            <dt>{words.before}</dt>
            <dd title={words.knownBy[writer.known]}>
              {total === 0 ? words.nothingBefore : words.beforeOf(writer)}
            </dd>
          </div>
          {comment.filledIn === null ? null : (
            <div>
              <dt>{words.filledIn}</dt>
              <dd>{words.filledInSeconds(Math.round(comment.filledIn / 1_000))}</dd>
            </div>
          )}
          <div>
            <dt>{words.sent}</dt>
            <dd>{formatDateTime(comment.at)}</dd>
          </div>
          {comment.editedAt === null ? null : (
            <div>
              <dt>{words.changed}</dt>
              <dd>{formatDateTime(comment.editedAt)}</dd>
            </div>
          )}
          {comment.replyTo === null ? null : (
            <div>
              <dt>{words.replyingTo}</dt>
              <dd>
                <button
                  type="button"
                  className="link"
                  onClick={() =>
                    change({
                      state: comment.replyTo?.state === 'waiting' ? null : (comment.replyTo?.state ?? null),
                      comment: String(comment.replyTo?.id ?? ''),
                    })
                  }
                >
                  <bdi>{comment.replyTo.name}</bdi>
                </button>
              </dd>
            </div>
          )}
        </dl>
        <p className="part">
          {total === 0 ? null : (
            <button
              type="button"
              className="link"
              onClick={() => change({ writer: String(comment.id), search: null, post: null })}
            >
              {words.everything}
            </button>
          )}
          {comment.byAuthor ? null : (
            <Button type="text" size="small" danger onClick={erase}>
              {words.erase}
            </Button>
          )}
        </p>
        {comment.edits.length === 0 ? null : (
          <>
            <h2>{words.history}</h2>
            <ol className="part history">
              {comment.edits.map((one) => (
                <li key={one.at}>
                  <span className="muted">{formatDateTime(one.at)}</span> <bdi>{one.name}</bdi>: {one.text}
                </li>
              ))}
            </ol>
          </>
        )}
        <h2>{words.inForce}</h2>
        <div className="part">
          <RulesInForce />
          <button type="button" className="link" onClick={() => change({ state: 'rules', comment: null })}>
            {words.changeRules}
          </button>
        </div>
      </div>
    </aside>
  )
}

function RulesInForce() {
  const { data } = useRead('GET /api/comments/rules', {})
  if (!data) return null
  return (
    <ul>
      {ruleSentences(commentRules(data.rules)).map((one) => (
        <li key={one}>{one}</li>
      ))}
    </ul>
  )
}

/** The words that decide most, each with a bar: to the right for spam. */
function Score({
  comment: { words: learned, score: _ },
  score,
}: {
  comment: CommentDetail
  score: number | null
}) {
  if (score === null) return <p className="muted">{words.noScore}</p>
  return (
    <>
      <p>
        <b>{words.score(score)}</b>
        {words.scoreOf(learned.decisions)}
      </p>
      <WordWeights weights={learned.weights} label={words.weights} />
    </>
  )
}

/** The design tokens of a stylesheet: edited in both colour schemes, with the page beside them, and their contrast. */
import { Input } from 'antd'
import { useMemo, useState } from 'react'
import {
  changeToken,
  contrastsOf,
  ENOUGH,
  ENOUGH_FOR_LARGE,
  SCHEMES,
  tokensOf,
  type Contrast,
  type Scheme,
  type Token,
} from '../../../core/styles/tokens.ts'
import { Chip } from '../../shared/marks/marks.tsx'
import { words } from './words.ts'

const text = words.tokens

interface Props {
  css: string
  change(css: string): void
  open(line: number): void
}

export function TokenPanel({ css, change, open }: Props) {
  const tokens = useMemo(() => tokensOf(css), [css])
  const contrasts = useMemo(() => contrastsOf(css), [css])
  const [lowest] = useMemo(
    () =>
      contrasts
        .flatMap((one) =>
          SCHEMES.flatMap((scheme) => {
            const ratio = one[scheme]
            return ratio === null ? [] : [{ ...one, scheme, ratio }]
          }),
        )
        .sort((a, b) => a.ratio - b.ratio),
    [contrasts],
  )
  return (
    <div className="about-template">
      <header>
        <h2>{text.title(tokens.length)}</h2>
        {lowest ? (
          <span className="muted" role="status">
            {text.lowest} <Ratio ratio={lowest.ratio} />{' '}
            {text.where(lowest.text, lowest.ground, text.schemes[lowest.scheme])}
          </span>
        ) : null}
      </header>
      <div className="scroll tokens">
        {tokens.length === 0 ? (
          <p className="quiet small">{text.none}</p>
        ) : (
          <table aria-label={text.label}>
            <thead>
              <tr>
                <th scope="col">{text.name}</th>
                {SCHEMES.map((scheme) => (
                  <th key={scheme} scope="col">
                    {text.schemes[scheme]}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {tokens.map((token) => (
                <tr key={token.name}>
                  <th scope="row">
                    <button
                      className="link mono"
                      onClick={() => open((token.light ?? token.dark)?.line ?? 1)}
                    >
                      {token.name}
                    </button>
                  </th>
                  {SCHEMES.map((scheme) => (
                    <td key={scheme}>
                      <Value
                        token={token}
                        scheme={scheme}
                        change={(value) => {
                          const changed = changeToken(css, token.name, scheme, value)
                          if (changed !== undefined) change(changed)
                          return changed !== undefined
                        }}
                      />
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {contrasts.length > 0 ? (
          <table aria-label={text.contrast}>
            <caption>{text.contrastHint}</caption>
            <thead>
              <tr>
                <th scope="col">{text.pair}</th>
                {SCHEMES.map((scheme) => (
                  <th key={scheme} scope="col">
                    {text.schemes[scheme]}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {[...contrasts]
                .sort((a, b) => least(a) - least(b))
                .map((one) => (
                  <tr key={`${one.text} ${one.ground}`}>
                    <th scope="row" className="mono">
                      {text.on(one.text, one.ground)}
                    </th>
                    {SCHEMES.map((scheme) => (
                      <td key={scheme}>
                        <Ratio ratio={one[scheme]} />
                      </td>
                    ))}
                  </tr>
                ))}
            </tbody>
          </table>
        ) : null}
      </div>
    </div>
  )
}

const least = ({ light, dark }: Contrast): number => Math.min(light ?? Infinity, dark ?? Infinity)

function Ratio({ ratio }: { ratio: number | null }) {
  if (ratio === null) return <span className="muted">{text.unknown}</span>
  const tone = ratio >= ENOUGH ? 'fine' : ratio >= ENOUGH_FOR_LARGE ? 'look' : 'fail'
  return (
    <>
      <Chip tone={tone}>{`${ratio}:1`}</Chip>{' '}
      <span className="muted">{tone === 'fine' ? '' : text.verdict[tone]}</span>
    </>
  )
}

interface ValueProps {
  token: Token
  scheme: Scheme
  /** @returns whether the value can be written */
  change(value: string): boolean
}

/** One value: as a colour, and as a text. What is typed stays as it is until the field is left. */
function Value({ token, scheme, change }: ValueProps) {
  const own = token[scheme]
  const [typed, setTyped] = useState<string>()
  const [isRefused, setRefused] = useState(false)
  if (!own) return <span className="muted">{scheme === 'dark' ? text.asInLight : text.absent}</span>
  const label = text.value(token.name, text.schemes[scheme])
  return (
    <span className="value">
      {own.colour === null ? null : (
        <input
          type="color"
          aria-label={text.colour(token.name, text.schemes[scheme])}
          value={own.colour}
          onChange={(event) => {
            setTyped(undefined)
            setRefused(!change(event.target.value))
          }}
        />
      )}
      <Input
        size="small"
        aria-label={label}
        status={isRefused ? 'error' : ''}
        title={isRefused ? text.refused : undefined}
        value={typed ?? own.value}
        onChange={({ target: { value } }) => {
          setTyped(value)
          setRefused(!change(value))
        }}
        onBlur={() => {
          setTyped(undefined)
          setRefused(false)
        }}
      />
    </span>
  )
}

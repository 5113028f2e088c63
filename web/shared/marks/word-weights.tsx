/** The words that decide a spam score, each with a bar. */
import './word-weights.css'

interface Props {
  weights: readonly { word: string; weight: number }[]
  label: string
}

export function WordWeights({ weights, label }: Props) {
  const most = Math.max(...weights.map((one) => Math.abs(one.weight)), 1)
  return (
    <table className="weights" aria-label={label}>
      <tbody>
        {weights.map(({ word, weight }) => (
          <tr key={word}>
            <th scope="row">{word.replace(/^(link|name):/, '')}</th>
            <td className="bar">
              <i
                className={weight > 0 ? 'spam' : 'fine'}
                style={{ width: `${(Math.abs(weight) / most) * 100}%` }}
              />
            </td>
            <td>{`${weight > 0 ? '+' : '−'}${Math.abs(weight).toFixed(1)}`}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

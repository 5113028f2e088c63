/** Turns faults in stylesheets into findings. */
import { assetPath } from '../shapes/documents.ts'
import { lineOfText, placeText, witness, type RuleFinding } from './rule.ts'
import type { StyleFault } from './style-faults.ts'

/** @param text of the stylesheet */
export function styleFinding(
  { asset, line, message, actual, expected }: StyleFault,
  text: string,
  { cause, fixes }: Pick<RuleFinding, 'cause' | 'fixes'>,
): RuleFinding {
  const document = assetPath(asset)
  return {
    subject: `${document}:${line} ${actual}`,
    title: `${placeText(document, line)}: ${message.replace(/\.$/, '')}`,
    detail: lineOfText(text, line).trim(),
    affects: 'now',
    witness: witness(null, message, actual, expected),
    cause,
    place: { document, line },
    others: [],
    fixes,
  }
}

/**
 * The sites whose content texts may embed, from a list that the developer keeps in blog.yaml. An address with places, such
 * as `https://films.example/watch/:film`, is what authors write; the address of the frame has the same places.
 */
import { Type, type Static } from 'typebox'

/** Characters that have no meaning in HTML or in a content security policy. Plain HTTP only on this computer. */
const FramedAddress = Type.String({
  maxLength: 300,
  pattern:
    '^(https://[a-z0-9.-]+(:\\d+)?|http://(localhost|127\\.0\\.0\\.1)(:\\d+)?)/[A-Za-z0-9._~:/?=&%+-]*$',
  description: 'an address that starts with https://, in which “:name” stands for what differs',
})

export const Embed = Type.Object(
  {
    /** What readers choose to see it, e.g. `Film from films.example`. */
    name: Type.String({
      minLength: 1,
      maxLength: 80,
      pattern: '^[^\\u0000-\\u001f]*$',
      description: 'one line without control characters',
    }),
    address: FramedAddress,
    frame: FramedAddress,
    /** Of the frame, in CSS pixels. */
    width: Type.Optional(Type.Integer({ minimum: 100, maximum: 2000 })),
    height: Type.Optional(Type.Integer({ minimum: 50, maximum: 2000 })),
  },
  { additionalProperties: false },
)
export type Embed = Static<typeof Embed>

/** A place in an address: `:film` behind a slash or an equals sign. */
const PLACE = /(?<=[/=]):([a-z][a-z0-9]*)/g

/** Returns the names of the places of an address. */
export const placesOf = (address: string): string[] =>
  [...address.matchAll(PLACE)].map(([, name = '']) => name)

/** What can stand in a place. */
const VALUE = '[A-Za-z0-9_-]{1,100}'

/** Patterns of addresses, which are tried on every paragraph of a text. */
const patterns = new WeakMap<Embed, RegExp>()

function patternOf(embed: Embed): RegExp {
  let pattern = patterns.get(embed)
  if (!pattern) patterns.set(embed, (pattern = compiled(embed)))
  return pattern
}

function compiled({ address }: Embed): RegExp {
  const parts = address.split(PLACE)
  // Every second part is the name of a place.
  const pattern = parts
    .map((part, index) => (index % 2 === 1 ? `(${VALUE})` : part.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')))
    .join('')
  return new RegExp(`^${pattern}$`)
}

/** Returns the address of the frame for an address that an author has written; undefined if the rule is for others. */
export function frameFor(embed: Embed, written: string): string | undefined {
  const { address, frame } = embed
  const found = patternOf(embed).exec(written)
  if (!found) return undefined
  const values = new Map(placesOf(address).map((name, index) => [name, found[index + 1] ?? '']))
  return frame.replace(PLACE, (whole, name: string) => values.get(name) ?? whole)
}

/** Returns the origins of frames, without repetition. */
export const originsOf = (embeds: readonly Embed[]): string[] => [
  ...new Set(embeds.map(({ frame }) => new URL(frame).origin)),
]

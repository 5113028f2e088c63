/** Our tag `fragment`, as liquidjs parses it. */
import {
  Tag,
  TypeGuards,
  type Liquid,
  type Parser,
  type TagToken,
  type Template,
  type TopLevelToken,
  type ValueToken,
} from 'liquidjs'
import { hashOf } from '../../shapes/hash.ts'
import { WordedError } from '../failure.ts'
import { readLifetime } from '../lifetime.ts'
import { FRAGMENT_PROBLEMS } from '../problems.ts'

/** `{% fragment 'aside', vary: post.id, lifetime: '1h' %} … {% endfragment %}`; `vary` may be repeated. */
export class FragmentTag extends Tag {
  readonly fragmentName: string
  /** In milliseconds. */
  readonly lifetime: number
  /** Values that are added to the key. They never replace what the body reads. */
  readonly vary: readonly ValueToken[]
  readonly body: readonly Template[]
  /** Identifies the text of the body. */
  readonly bodyHash: string

  constructor(token: TagToken, remaining: TopLevelToken[], liquid: Liquid, parser: Parser) {
    super(token, remaining, liquid)
    const name = this.tokenizer.readValue()
    if (!name || !TypeGuards.isQuotedToken(name) || !/^[a-z][a-z0-9-]{0,59}$/.test(name.content))
      throw new WordedError(FRAGMENT_PROBLEMS['fragment-name-invalid']())
    this.fragmentName = name.content
    const vary: ValueToken[] = []
    let lifetime: number | undefined
    for (const hash of this.tokenizer.readHashes()) {
      const key = hash.name.content
      if (key === 'vary' && hash.value) vary.push(hash.value as ValueToken)
      else if (key === 'lifetime' && hash.value && TypeGuards.isQuotedToken(hash.value)) {
        const { content } = hash.value
        lifetime = readLifetime(content)
        if (lifetime === undefined)
          throw new WordedError(FRAGMENT_PROBLEMS['fragment-lifetime-invalid'](content))
      } else throw new WordedError(FRAGMENT_PROBLEMS['fragment-argument-unknown'](key))
    }
    if (lifetime === undefined) throw new WordedError(FRAGMENT_PROBLEMS['fragment-lifetime-missing']())
    this.lifetime = lifetime
    this.vary = vary
    const { body, text } = this.#readBody(token, remaining, parser)
    this.body = body
    this.bodyHash = hashOf(text)
  }

  #readBody(token: TagToken, remaining: TopLevelToken[], parser: Parser): { body: Template[]; text: string } {
    const body: Template[] = []
    while (remaining.length > 0) {
      const next = remaining.shift() as TopLevelToken
      if (TypeGuards.isTagToken(next) && next.name === 'endfragment')
        return { body, text: token.input.slice(token.end, next.begin) }
      body.push(parser.parseToken(next, remaining))
    }
    throw new WordedError(FRAGMENT_PROBLEMS['fragment-not-closed'](this.fragmentName))
  }

  /** Templates are rendered by the program; liquidjs renders none. */
  override render(): void {
    throw new Error('liquidjs does not render fragments.')
  }
}

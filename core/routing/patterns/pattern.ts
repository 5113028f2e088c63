/**
 * Parses a route's path: the pathname part of the URL Pattern syntax
 * (WHATWG URL Pattern Standard, “Parsing patterns”), compiled once to a regular expression.
 */
import type { ParameterType } from '../../shapes/schemas.ts'
import { PARAMETER_RULES } from './parameters.ts'

export type Modifier = '' | '?' | '*' | '+'

/** One part of a pattern, as in the standard: fixed text, or a matcher between a prefix and a suffix. */
export type PatternPart =
  | { kind: 'fixed'; text: string; modifier: Modifier }
  | {
      kind: 'parameter'
      /** Numbers name the unnamed ones, as in the standard. */
      name: string
      prefix: string
      suffix: string
      modifier: Modifier
      /** Regular expression source of one value. */
      source: string
      /** As typed in `params:`; undefined where the pattern itself says what matches. */
      type?: ParameterType
    }

export interface Pattern {
  text: string
  parts: PatternPart[]
  /** Anchored; one group a parameter, in order of `names`. */
  regexp: RegExp
  names: string[]
  /** Type of each of `names`; a parameter without one is text. */
  types: ParameterType[]
}

export interface PatternError {
  message: string
  /** 0-based index into the pattern. */
  at: number
  /** Name of a type for which the pattern has no parameter: then the fault is not in the pattern. */
  untaken?: string
}

type Token = {
  type: 'open' | 'close' | 'regexp' | 'name' | 'char' | 'escaped' | 'modifier' | 'asterisk' | 'end'
  at: number
  value: string
}

class PatternFailure extends Error {
  constructor(
    message: string,
    readonly at: number,
  ) {
    super(message)
  }
}

const NAME_START = /[\p{ID_Start}$_]/u
const NAME_PART = /[\p{ID_Continue}$_\u200c\u200d]/u

/** Standard, “tokenize”, strict policy. */
function tokenize(text: string): Token[] {
  const tokens: Token[] = []
  let index = 0
  while (index < text.length) {
    const at = index
    const char = String.fromCodePoint(text.codePointAt(index) ?? 0)
    index += char.length
    if (char === '*') tokens.push({ type: 'asterisk', at, value: char })
    else if (char === '+' || char === '?') tokens.push({ type: 'modifier', at, value: char })
    else if (char === '\\') {
      if (index >= text.length) throw new PatternFailure('the pattern ends with a backslash', at)
      const escaped = String.fromCodePoint(text.codePointAt(index) ?? 0)
      index += escaped.length
      tokens.push({ type: 'escaped', at, value: escaped })
    } else if (char === '{') tokens.push({ type: 'open', at, value: char })
    else if (char === '}') tokens.push({ type: 'close', at, value: char })
    else if (char === ':') {
      let name = ''
      while (index < text.length) {
        const next = String.fromCodePoint(text.codePointAt(index) ?? 0)
        if (!(name === '' ? NAME_START : NAME_PART).test(next)) break
        name += next
        index += next.length
      }
      if (name === '') throw new PatternFailure('a name is missing after “:”', at)
      tokens.push({ type: 'name', at, value: name })
    } else if (char === '(') {
      const end = endOfRegexp(text, index)
      tokens.push({ type: 'regexp', at, value: text.slice(index, end) })
      index = end + 1
    } else tokens.push({ type: 'char', at, value: char })
  }
  tokens.push({ type: 'end', at: text.length, value: '' })
  return tokens
}

/** Index of the closing parenthesis; the standard's rules for what may stand inside. */
function endOfRegexp(text: string, start: number): number {
  let depth = 1
  let index = start
  if (text[index] === '?') throw new PatternFailure('a regular expression may not begin with “?”', index)
  while (index < text.length) {
    const char = text[index] ?? ''
    if (char > '\u007f') throw new PatternFailure('only ASCII may stand in a regular expression', index)
    if (char === '\\') {
      if (index + 1 >= text.length)
        throw new PatternFailure('the regular expression ends with a backslash', index)
      index += 2
      continue
    }
    if (char === ')') {
      depth--
      if (depth === 0) {
        if (index === start) throw new PatternFailure('the regular expression is empty', start)
        return index
      }
    } else if (char === '(') {
      depth++
      if (text[index + 1] !== '?')
        throw new PatternFailure('capturing groups are not allowed; write (?:…)', index)
    }
    index++
  }
  throw new PatternFailure('“(” is not closed', start - 1)
}

/** Parser state of the standard's “parse a pattern string”. */
class Parser {
  readonly #tokens: Token[]
  readonly #types: Readonly<Record<string, ParameterType>>
  readonly #parts: PatternPart[] = []
  readonly #names = new Set<string>()
  #index = 0
  #pending = ''
  #nextNumber = 0

  constructor(text: string, types: Readonly<Record<string, ParameterType>>) {
    this.#tokens = tokenize(text)
    this.#types = types
  }

  parse(): PatternPart[] {
    while (this.#index < this.#tokens.length) {
      const char = this.#take('char')
      const name = this.#take('name')
      const matcher = this.#takeMatcher(name)
      if (name || matcher) {
        let prefix = char?.value ?? ''
        if (prefix !== '' && prefix !== '/') {
          this.#pending += prefix
          prefix = ''
        }
        this.#flushPending()
        this.#add(prefix, name, matcher, '', this.#takeModifier())
        continue
      }
      const fixed = char ?? this.#take('escaped')
      if (fixed) {
        this.#pending += fixed.value
        continue
      }
      if (this.#take('open')) {
        const prefix = this.#takeText()
        const groupName = this.#take('name')
        const groupMatcher = this.#takeMatcher(groupName)
        const suffix = this.#takeText()
        this.#require('close')
        this.#add(prefix, groupName, groupMatcher, suffix, this.#takeModifier())
        continue
      }
      this.#flushPending()
      this.#require('end')
    }
    return this.#parts
  }

  #take(type: Token['type']): Token | undefined {
    const token = this.#tokens[this.#index]
    if (token?.type !== type) return undefined
    this.#index++
    return token
  }

  #takeMatcher(name: Token | undefined): Token | undefined {
    return this.#take('regexp') ?? (name ? undefined : this.#take('asterisk'))
  }

  #takeModifier(): Modifier {
    return ((this.#take('modifier') ?? this.#take('asterisk'))?.value as Modifier | undefined) ?? ''
  }

  #takeText(): string {
    let text = ''
    for (;;) {
      const token = this.#take('char') ?? this.#take('escaped')
      if (!token) return text
      text += token.value
    }
  }

  #require(type: 'close' | 'end'): void {
    if (this.#take(type)) return
    const token = this.#tokens[this.#index]
    const found = token?.type === 'end' || !token ? 'the end' : `“${token.value}”`
    throw new PatternFailure(
      type === 'close' ? `“{” is not closed before ${found}` : `${found} may not stand here`,
      token?.at ?? 0,
    )
  }

  #flushPending(): void {
    if (this.#pending !== '')
      this.#parts.push({ kind: 'fixed', text: encodeFixed(this.#pending), modifier: '' })
    this.#pending = ''
  }

  #add(
    prefix: string,
    name: Token | undefined,
    matcher: Token | undefined,
    suffix: string,
    modifier: Modifier,
  ): void {
    if (!name && !matcher && modifier === '') {
      this.#pending += prefix
      return
    }
    this.#flushPending()
    if (!name && !matcher) {
      if (prefix !== '') this.#parts.push({ kind: 'fixed', text: encodeFixed(prefix), modifier })
      return
    }
    const label = name?.value ?? String(this.#nextNumber++)
    const at = (name ?? matcher)?.at ?? 0
    if (this.#names.has(label)) throw new PatternFailure(`the name “${label}” is used twice`, at)
    this.#names.add(label)
    const type = Object.hasOwn(this.#types, label) ? this.#types[label] : undefined
    if (type !== undefined && matcher) {
      throw new PatternFailure(`“${label}” has a type and a regular expression; keep one of them`, at)
    }
    const source =
      matcher?.type === 'regexp'
        ? matcher.value
        : matcher
          ? '.*'
          : type
            ? PARAMETER_RULES[type].source
            : '[^\\/]+?'
    try {
      new RegExp(source, 'v')
    } catch {
      throw new PatternFailure(`“${source}” is not a valid regular expression`, at)
    }
    this.#parts.push({
      kind: 'parameter',
      name: label,
      prefix: encodeFixed(prefix),
      suffix: encodeFixed(suffix),
      modifier,
      source,
      ...(type === undefined ? {} : { type }),
    })
  }
}

/** Fixed text as it appears in a request: percent-encoded where an address must be (URL Standard, path percent-encode set). */
function encodeFixed(text: string): string {
  return text.replace(/[^!$&'()*+,\-./0-9:;=@A-Z[\\\]^_a-z|~%]/gu, (char) => encodeURIComponent(char))
}

const escapeRegexp = (text: string) => text.replace(/[.+*?^${}()[\]|/\\]/g, '\\$&')

/** Standard, “generate a regular expression and name list”. */
function regexpOf(parts: readonly PatternPart[]): string {
  let source = '^'
  for (const part of parts) {
    if (part.kind === 'fixed') {
      source +=
        part.modifier === '' ? escapeRegexp(part.text) : `(?:${escapeRegexp(part.text)})${part.modifier}`
      continue
    }
    const { prefix, suffix, modifier } = part
    const before = escapeRegexp(prefix)
    const after = escapeRegexp(suffix)
    if (prefix === '' && suffix === '') {
      source +=
        modifier === '' || modifier === '?'
          ? `(${part.source})${modifier}`
          : `((?:${part.source})${modifier})`
    } else if (modifier === '' || modifier === '?') {
      source += `(?:${before}(${part.source})${after})${modifier}`
    } else {
      source += `(?:${before}((?:${part.source})(?:${after}${before}(?:${part.source}))*)${after})${modifier === '*' ? '?' : ''}`
    }
  }
  return `${source}$`
}

/**
 * Compiles a pattern.
 * @param types parameter name → type; a typed parameter matches what its type says
 */
export function compilePattern(
  text: string,
  types: Readonly<Record<string, ParameterType>> = {},
): { ok: true; pattern: Pattern } | { ok: false; error: PatternError } {
  try {
    const parts = new Parser(text, types).parse()
    const names = parts.flatMap((part) => (part.kind === 'parameter' ? [part.name] : []))
    const untaken = Object.keys(types).find((name) => !names.includes(name))
    if (untaken !== undefined)
      return {
        ok: false,
        error: { message: `the path has no parameter “:${untaken}”`, at: 0, untaken: untaken },
      }
    const typesInOrder = parts.flatMap((part) => (part.kind === 'parameter' ? [part.type ?? 'text'] : []))
    const regexp = new RegExp(regexpOf(parts), 'v')
    return { ok: true, pattern: { text, parts, names, types: typesInOrder, regexp } }
  } catch (error) {
    if (error instanceof PatternFailure) return { ok: false, error: { message: error.message, at: error.at } }
    if (error instanceof SyntaxError)
      return { ok: false, error: { message: 'the pattern does not compile', at: 0 } }
    throw error
  }
}

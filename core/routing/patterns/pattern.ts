/**
 * Parses a route's path, which has the pathname syntax of URL Pattern (WHATWG URL Pattern Standard, “Parsing
 * patterns”), and compiles it once to a regular expression.
 */
import type { ParameterType } from '../../shapes/schemas.ts'
import { PARAMETER_RULES } from './parameters.ts'

export type Modifier = '' | '?' | '*' | '+'

/** A part of a pattern as the standard defines it: fixed text, or a parameter between a prefix and a suffix. */
export type PatternPart =
  | { kind: 'fixed'; text: string; modifier: Modifier }
  | {
      kind: 'parameter'
      /** Unnamed parameters are numbered from 0, as in the standard. */
      name: string
      prefix: string
      suffix: string
      modifier: Modifier
      /** Regular expression source of a single value. */
      source: string
      /** The type declared in `params:`; absent where the pattern itself has a regular expression. */
      type?: ParameterType
    }

export interface Pattern {
  text: string
  parts: PatternPart[]
  /** Anchored at both ends; has one capturing group for each of `names`, in that order. */
  regexp: RegExp
  names: string[]
  /** The type of each of `names`; `text` where none is declared. */
  types: ParameterType[]
}

export interface PatternError {
  /** Why the pattern is not valid, as part of a sentence. */
  reason: string
  /** 0-based index into the pattern. */
  at: number
  /** The name of a declared type that the pattern has no parameter for. The pattern itself is valid then. */
  unusedType?: string
}

type Token = {
  type: 'open' | 'close' | 'regexp' | 'name' | 'char' | 'escaped' | 'modifier' | 'asterisk' | 'end'
  at: number
  value: string
}

class PatternFailure extends Error {
  constructor(
    readonly reason: string,
    readonly at: number,
  ) {
    super(reason)
  }
}

const NAME_START = /[\p{ID_Start}$_]/u
const NAME_PART = /[\p{ID_Continue}$_\u200c\u200d]/u

/** Splits a pattern into tokens (standard, “tokenize” with the strict policy). */
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

/** Returns the index of the closing parenthesis, after checking the standard's rules for what is inside. */
function endOfRegexp(text: string, start: number): number {
  let depth = 1
  let index = start
  if (text[index] === '?') throw new PatternFailure('a regular expression must not begin with “?”', index)
  while (index < text.length) {
    const char = text[index] ?? ''
    if (char > '\u007f')
      throw new PatternFailure('a regular expression may only have ASCII characters', index)
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

/** Parses tokens into parts (standard, “parse a pattern string”). */
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
      type === 'close' ? `“{” is not closed before ${found}` : `${found} is not allowed here`,
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
      throw new PatternFailure(`“${label}” has both a type and a regular expression`, at)
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

/** Percent-encodes fixed text as in a request (URL Standard, path percent-encode set). */
function encodeFixed(text: string): string {
  return text.replace(/[^!$&'()*+,\-./0-9:;=@A-Z[\\\]^_a-z|~%]/gu, (char) => encodeURIComponent(char))
}

const escapeRegexp = (text: string) => text.replace(/[.+*?^${}()[\]|/\\]/g, '\\$&')

/** Returns the source of the anchored regular expression (standard, “generate a regular expression and name list”). */
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
 * @param types the type of each typed parameter; it decides what the parameter matches
 */
export function compilePattern(
  text: string,
  types: Readonly<Record<string, ParameterType>> = {},
): { ok: true; pattern: Pattern } | { ok: false; error: PatternError } {
  try {
    const parts = new Parser(text, types).parse()
    const names = parts.flatMap((part) => (part.kind === 'parameter' ? [part.name] : []))
    const unusedType = Object.keys(types).find((name) => !names.includes(name))
    if (unusedType !== undefined)
      return { ok: false, error: { reason: `it has no parameter “:${unusedType}”`, at: 0, unusedType } }
    const typesInOrder = parts.flatMap((part) => (part.kind === 'parameter' ? [part.type ?? 'text'] : []))
    const regexp = new RegExp(regexpOf(parts), 'v')
    return { ok: true, pattern: { text, parts, names, types: typesInOrder, regexp } }
  } catch (error) {
    if (error instanceof PatternFailure) return { ok: false, error: { reason: error.reason, at: error.at } }
    if (error instanceof SyntaxError) return { ok: false, error: { reason: 'it does not compile', at: 0 } }
    throw error
  }
}

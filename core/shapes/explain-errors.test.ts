// Schema errors: each fault is reported once, at its place; of a value that may have several forms, the meant form counts.
import { Ajv } from 'ajv'
import { describe, expect, it } from 'vitest'
import { demo, problemsOf } from '../testing/demo.ts'
import { explainErrors } from './explain-errors.ts'

/** Returns `line:column code subject` for the problems of a query with these conditions. */
const conditions = (where: string) =>
  problemsOf(new Map([...demo, ['queries/odd.yaml', `from: posts\nwhere: [${where}]\ntake: all\n`]])).map(
    ({ line, column, code, message }) => `${line}:${column} ${code} ${/^“[^”]*”/.exec(message)?.[0] ?? ''}`,
  )
const listed = (count: number) => Array.from({ length: count }, (_, index) => `a${index}`).join(', ')

describe('a condition', () => {
  it.each<[string, string, string[]]>([
    [
      'with a misspelt key',
      '{ fild: title, is: equal, to: x }',
      ['2:9 value-missing “field”', '2:11 value-key-unknown “fild”'],
    ],
    ['with a name instead of a list', '{ any: published }', ['2:11 value-type “any”']],
    ['with an empty list', '{ any: [] }', ['2:11 value-empty “any”']],
    [
      'with too many values',
      `{ field: title, is: in, to: [${listed(101)}] }`,
      ['2:33 value-too-many-items “to”'],
    ],
    ['with an unknown operator', '{ field: title, is: like, to: x }', ['2:25 value-not-allowed “is”']],
    ['compared with a map', '{ field: title, is: equal, to: { a: 1 } }', ['2:36 value-type “to”']],
    ['that is two groups', '{ any: [published], all: [published] }', ['2:29 value-key-unknown “all”']],
    ['that is a number', '7', ['2:9 value-type ']],
    ['that is null', 'null', ['2:9 value-type ']],
    ['that is a group with an unknown name', '{ some: [published] }', ['2:9 value-type ']],
    ['with a capital letter in its name', 'Published', ['2:9 value-form ']],
    [
      'nested in groups',
      '{ any: [{ not: { field: title, is: equal, too: x } }] }',
      ['2:51 value-key-unknown “too”'],
    ],
    ['nested too deeply', '{ not: { not: { not: { not: published } } } }', ['2:25 value-type “not”']],
    [
      'next to another invalid one',
      '{ any: [] }, { field: title }',
      ['2:11 value-empty “any”', '2:22 value-missing “is”'],
    ],
  ])('%s', (_, where, expected) => {
    expect(conditions(where)).toEqual(expected)
  })

  it('of ten thousand invalid ones, the first hundred are reported, and the number of the others', () => {
    const group = (of: string) => `{ any: [${Array(10).fill(of).join(', ')}] }`
    const reported = conditions(
      Array(10)
        .fill(group(group(group('7'))))
        .join(', '),
    )
    expect(reported).toHaveLength(101)
    expect(new Set(reported.slice(0, 100))).toHaveLength(100)
    expect(reported[99]).toMatch(/^2:\d+ value-type /)
    expect(reported[100]).toBe('1:1 value-more-problems ')
  })

  it.each(['{ not: ', '{ any: ['])('in a thousand times “%s” is reported once, without delay', (opened) => {
    const closed = opened.includes('[') ? '] }' : ' }'
    expect(conditions(opened.repeat(1_000) + 'published' + closed.repeat(1_000))).toEqual([
      // How deep JavaScript can recurse differs between runs.
      expect.stringMatching(/^\d+:\d+ (yaml-too-deep|value-type) /),
    ])
  })
})

describe('the data of a route', () => {
  const data = (entry: string) =>
    problemsOf(
      new Map([
        ...demo,
        ['routes.yaml', `- name: home\n  path: /\n  data:\n    posts: ${entry}\n  template: pages/home\n`],
      ]),
    ).map((one) => `${one.line}:${one.column} ${one.code}`)
  it.each<[string, string[]]>([
    ['{ qurey: all-posts }', ['4:5 value-missing', '4:14 value-key-unknown']],
    ['[all-posts]', ['4:5 value-type']],
    ['{ query: all-posts, with: { size: 3 } }', ['4:40 value-type']],
  ])('%s', (entry, expected) => {
    expect(data(entry)).toEqual(expected)
  })
})

describe('numbers, lists and unions', () => {
  it.each<[object, unknown, string, RegExp?]>([
    [{ type: 'integer', minimum: 1 }, 0, 'value-too-small', /is 0.*minimum is 1/],
    [{ type: 'integer', maximum: 100 }, 500, 'value-too-large', /is 500.*maximum is 100/],
    [{ type: 'integer' }, 1.5, 'value-type', /an integer, not 1\.5/],
    [{ type: 'array', minItems: 2 }, [1], 'value-too-few-items', /2/],
    [{ type: 'string', minLength: 1 }, '', 'value-empty'],
    [{ type: 'string', maxLength: 3 }, 'abcd', 'value-too-long', /3/],
    [{ type: 'string', pattern: '^a$' }, 'b', 'value-form', /“b”/],
    [
      { anyOf: [{ enum: ['a', 'b'] }, { type: 'integer' }] },
      true,
      'value-type',
      /“a”, “b” or an integer, not true/,
    ],
    [{ anyOf: [{ enum: ['a', 'b'] }, { type: 'integer' }] }, 1.5, 'value-type', /an integer, not 1\.5/],
    [
      { anyOf: [{ anyOf: [{ type: 'string' }] }, { type: 'null' }] },
      1,
      'value-type',
      /a string or a null, not 1/,
    ],
    [{ not: {} }, 'x'.repeat(80), 'value-invalid'],
  ])('%j of %j', (schema, value, code, parts = /./) => {
    const validate = new Ajv({ allErrors: true, strict: false, verbose: true }).compile(schema)
    expect(validate(value)).toBe(false)
    expect(explainErrors(validate.errors ?? [])).toEqual([
      expect.objectContaining({ code, message: expect.stringMatching(parts) as string }),
    ])
  })
  it('a key with a slash or a tilde is decoded (RFC 6901)', () => {
    const schema = { type: 'object', properties: { 'a/b~c': { type: 'string' } } }
    const validate = new Ajv({ allErrors: true, strict: false, verbose: true }).compile(schema)
    validate({ 'a/b~c': 1 })
    expect(explainErrors(validate.errors ?? [])).toEqual([
      expect.objectContaining({ path: ['a/b~c'], pointer: '/a~1b~0c', code: 'value-type' }),
    ])
  })
})

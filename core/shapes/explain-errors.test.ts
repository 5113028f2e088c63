// A wrong value is told once, at its place, in words; of what may be several things, the one that was meant counts.
import { Ajv } from 'ajv'
import { describe, expect, it } from 'vitest'
import { demo, problemsOf } from '../testing/demo.ts'
import { explainErrors } from './explain-errors.ts'

/** `line:column message | hint` of a query with these conditions. */
const conditions = (where: string) =>
  problemsOf(new Map([...demo, ['queries/odd.yaml', `from: posts\nwhere: [${where}]\ntake: all\n`]])).map(
    ({ line, column, message, hint }) =>
      `${line}:${column} ${message}${hint === undefined ? '' : ` | ${hint}`}`,
  )
const listed = (count: number) => Array.from({ length: count }, (_, index) => `a${index}`).join(', ')
const DEEP = 'groups (any, all, not) lie up to 3 deep in each other'
const FORMS = 'a string, { field: …, is: … }, { any: … }, { all: … } or { not: … }'

describe('a condition', () => {
  it.each<[string, string, string[]]>([
    [
      'with a key misspelt',
      '{ fild: title, is: equal, to: x }',
      ['2:9 “field” is missing', '2:11 “fild” is not known here | known: field, is, to, when'],
    ],
    [
      'that is no list where one is needed',
      '{ any: published }',
      ['2:11 “any” must be an array, not “published”'],
    ],
    ['of none', '{ any: [] }', ['2:11 “any” is empty']],
    [
      'of more than there may be',
      `{ field: title, is: in, to: [${listed(101)}] }`,
      ['2:33 “to” has more than 100 items'],
    ],
    [
      'with an operator that is not there',
      '{ field: title, is: like, to: x }',
      [
        '2:25 “is” is “like” | one of: equal, not-equal, less, at-most, more, at-least, in, contains, matches, within, set, unset',
      ],
    ],
    [
      'compared with a map',
      '{ field: title, is: equal, to: { a: 1 } }',
      ['2:36 “to” must be a string, a number, a boolean or a list, not {"a":1}'],
    ],
    [
      'that is two groups at once',
      '{ any: [published], all: [published] }',
      ['2:29 “all” is not known here | known: any'],
    ],
    ['that is a number', '7', [`2:9 this must be ${FORMS}, not 7`]],
    ['that is nothing', 'null', [`2:9 this must be ${FORMS}, not null`]],
    [
      'that is a group of another name',
      '{ some: [published] }',
      [`2:9 this must be ${FORMS}, not {"some":["published"]}`],
    ],
    [
      'with a name of another form',
      'Published',
      [
        '2:9 this is “Published”, which does not have the form it needs | lower-case letters, digits and single hyphens, a letter first',
      ],
    ],
    [
      'deep in groups',
      '{ any: [{ not: { field: title, is: equal, too: x } }] }',
      ['2:51 “too” is not known here | known: field, is, to, when'],
    ],
    [
      'too deep in groups',
      '{ not: { not: { not: { not: published } } } }',
      [`2:25 “not” must be a string or { field: …, is: … }, not {"not":"published"} | ${DEEP}`],
    ],
    [
      'beside another wrong one: each is told',
      '{ any: [] }, { field: title }',
      ['2:11 “any” is empty', '2:22 “is” is missing'],
    ],
  ])('%s', (_, where, expected) => {
    expect(conditions(where)).toEqual(expected)
  })

  it('of ten thousand faults: the first hundred are told, and how many more there are', () => {
    const group = (of: string) => `{ any: [${Array(10).fill(of).join(', ')}] }`
    const told = conditions(
      Array(10)
        .fill(group(group(group('7'))))
        .join(', '),
    )
    expect(told).toHaveLength(101)
    expect(new Set(told.slice(0, 100))).toHaveLength(100)
    expect(told[99]).toMatch(/^2:\d+ this must be a string or \{ field: …, is: … \}, not 7 \| groups/)
    expect(told[100]).toBe('1:1 there are 9900 more faults')
  })

  it.each(['{ not: ', '{ any: ['])('in a thousand of “%s”: in words, and at once', (opened) => {
    const closed = opened.includes('[') ? '] }' : ' }'
    expect(conditions(opened.repeat(1_000) + 'published' + closed.repeat(1_000))).toEqual([
      // How deep the engine can go differs from run to run.
      expect.stringMatching(/this lies too deep in other things to be read|up to 3 deep in each other/),
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
    ).map((one) => `${one.line}:${one.column} ${one.message}`)
  it.each<[string, string[]]>([
    ['{ qurey: all-posts }', ['4:5 “query” is missing', '4:14 “qurey” is not known here']],
    ['[all-posts]', ['4:5 “posts” must be a string or { query: … }, not ["all-posts"]']],
    ['{ query: all-posts, with: { size: 3 } }', ['4:40 “size” must be a string, not 3']],
  ])('%s', (entry, expected) => {
    expect(data(entry)).toEqual(expected)
  })
})

describe('numbers and lists have bounds', () => {
  it.each<[object, unknown, string]>([
    [{ type: 'integer', minimum: 1 }, 0, 'this is 0, and the least is 1'],
    [{ type: 'integer', maximum: 100 }, 500, 'this is 500, and the most is 100'],
    [{ type: 'integer' }, 1.5, 'this must be an integer, not 1.5'],
    [{ type: 'array', minItems: 2 }, [1], 'this has fewer than 2 items'],
    [{ type: 'string', minLength: 1 }, '', 'this is empty'],
    [{ type: 'string', maxLength: 3 }, 'abcd', 'this is longer than 3 characters'],
    [{ type: 'string', pattern: '^a$' }, 'b', 'this is “b”, which does not have the form it needs'],
    [
      { anyOf: [{ enum: ['a', 'b'] }, { type: 'integer' }] },
      true,
      'this must be “a”, “b” or an integer, not true',
    ],
    [{ anyOf: [{ enum: ['a', 'b'] }, { type: 'integer' }] }, 1.5, 'this must be an integer, not 1.5'],
    [
      { anyOf: [{ anyOf: [{ type: 'string' }] }, { type: 'null' }] },
      1,
      'this must be a string or a null, not 1',
    ],
    [{ not: {} }, 'x'.repeat(80), 'this must NOT be valid'],
  ])('%j of %j', (schema, value, message) => {
    const validate = new Ajv({ allErrors: true, strict: false, verbose: true }).compile(schema)
    expect(validate(value)).toBe(false)
    expect(explainErrors(validate.errors ?? []).map((one) => one.message)).toEqual([message])
  })
  it('a key with a slash or a tilde is found again (RFC 6901)', () => {
    const schema = { type: 'object', properties: { 'a/b~c': { type: 'string' } } }
    const validate = new Ajv({ allErrors: true, strict: false, verbose: true }).compile(schema)
    validate({ 'a/b~c': 1 })
    expect(explainErrors(validate.errors ?? [])).toEqual([
      { path: ['a/b~c'], pointer: '/a~1b~0c', message: '“a/b~c” must be a string, not 1' },
    ])
  })
})

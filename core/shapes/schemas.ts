/** The shapes of a blog's definition, from one source: JSON Schema for validation, TypeScript types for code. */
import { Type, type Static, type TSchema } from 'typebox'
import { CommentRules } from './comment-rules.ts'
import { LETTER_CASES, TRAILING_SLASHES } from './address-policy.ts'
import { Embed } from './embeds.ts'
import { ALLOWED_ELEMENTS } from './html-elements.ts'

const NAME = '^[a-z][a-z0-9]*(-[a-z0-9]+)*$'
export const closed = { additionalProperties: false } as const

const Name = Type.String({
  pattern: NAME,
  maxLength: 60,
  description: 'lower-case letters, digits and single hyphens, starting with a letter',
})
export const SlugText = Type.String({
  pattern: NAME.replace('[a-z]', '[a-z0-9]'),
  maxLength: 100,
  description: 'lower-case letters, digits and single hyphens',
})
/** One line of text, of at most `maximum` characters. */
export const Line = (maximum: number) =>
  Type.String({
    minLength: 1,
    maxLength: maximum,
    pattern: '^[^\\u0000-\\u001f]*$',
    description: 'one line without control characters',
  })

/** Parameter types. The type decides which text matches and which value a query receives. */
export const PARAMETER_TYPES = [
  'text',
  'slug',
  'integer',
  'number',
  'uuid',
  'year',
  'month',
  'day',
  'path',
] as const
export const ParameterType = Type.Enum([...PARAMETER_TYPES])
export type ParameterType = (typeof PARAMETER_TYPES)[number]

/** The source of a template value: a query by name, or a query with values for its parameters. */
export const DataEntry = Type.Union([
  Name,
  Type.Object(
    {
      query: Name,
      /** Parameter → a route parameter, a path into other data (`post.category.slug`) or a quoted text. */
      with: Type.Optional(Type.Record(Name, Type.String({ maxLength: 200 }))),
    },
    closed,
  ),
])
export type DataEntry = Static<typeof DataEntry>

const Data = Type.Record(
  Type.String({
    pattern: '^[a-z][A-Za-z0-9]*$',
    maxLength: 60,
    description: 'letters and digits, starting with a lower-case letter',
  }),
  DataEntry,
)

const Address = (pattern: string, description: string) =>
  Type.String({ minLength: 1, maxLength: 500, pattern, description })
const WebAddress = Address('^https://[!-~]+$', 'an address that starts with https://')

const Colour = Type.String({ pattern: '^#[0-9a-fA-F]{6}$', description: 'a colour such as #24252d' })

export const PreviewColours = Type.Object(
  { paper: Type.Optional(Colour), ink: Type.Optional(Colour), accent: Type.Optional(Colour) },
  closed,
)
export type PreviewColours = Static<typeof PreviewColours>

export const SecurityContact = Type.Object(
  {
    /** Where to report, the best first. */
    contact: Type.Array(
      Address('^(https://|mailto:|tel:)[!-~]+$', 'an address that starts with https://, mailto: or tel:'),
      { minItems: 1, maxItems: 10 },
    ),
    /** The day from which the data may be out of date. */
    expires: Type.String({
      pattern: '^\\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\\d|3[01])$',
      description: 'a day, such as 2027-06-30',
    }),
    policy: Type.Optional(WebAddress),
    encryption: Type.Optional(
      Address(
        '^(https://|dns:|openpgp4fpr:)[!-~]+$',
        'an address that starts with https://, dns: or openpgp4fpr:',
      ),
    ),
    acknowledgments: Type.Optional(WebAddress),
    /** Languages of reports, e.g. `en, fr`. */
    languages: Type.Optional(
      Address(
        '^[A-Za-z]{2,3}(-[A-Za-z0-9]+)*(, ?[A-Za-z]{2,3}(-[A-Za-z0-9]+)*)*$',
        'languages, such as en, fr',
      ),
    ),
  },
  closed,
)
export type SecurityContact = Static<typeof SecurityContact>

export const REDIRECT_STATUS = [301, 302, 307, 308] as const

export const Route = Type.Object(
  {
    name: Name,
    path: Type.String({
      minLength: 1,
      maxLength: 500,
      pattern: '^/',
      description: 'a path that starts with “/”',
    }),
    params: Type.Optional(Type.Record(Type.String(), ParameterType)),
    /** Query-string parameters that queries may use. A condition with `when: given` is skipped if its parameter is absent. */
    query: Type.Optional(
      Type.Record(
        Type.String({
          pattern: '^[a-z][a-z0-9-]*$',
          maxLength: 30,
          description: 'lower-case letters, digits and hyphens, starting with a letter',
        }),
        ParameterType,
      ),
    ),
    data: Type.Optional(Data),
    template: Type.Optional(Type.String({ pattern: '^pages/', maxLength: 120, description: 'pages/NAME' })),
    heading: Type.Optional(Line(200)),
    /** True: clients that ask for application/json get the route's data. */
    json: Type.Optional(Type.Boolean()),
    /** The posts of its data as a feed. */
    feed: Type.Optional(Type.Enum(['atom', 'rss', 'json'])),
    /** Of a feed: whether it contains whole texts, or excerpts only. */
    texts: Type.Optional(Type.Enum(['full', 'short'])),
    /** True: a sitemap of all pages. */
    sitemap: Type.Optional(Type.Boolean()),
    /** True: robots.txt. */
    robots: Type.Optional(Type.Boolean()),
    /** An image with the title of the post in its data, or else of the blog, shown where the address is shared. */
    preview: Type.Optional(PreviewColours),
    /** How to report a vulnerability, as security.txt (RFC 9116). */
    security: Type.Optional(SecurityContact),
    action: Type.Optional(Type.Enum(['add-comment'])),
    /** Of an action: the route of the page that shows its result. */
    then: Type.Optional(Name),
    /** Of an action: what it changes of the blog's comment rules. */
    comments: Type.Optional(CommentRules),
    redirect: Type.Optional(
      Type.Object(
        {
          /**
           * A path of this blog, or the address of another site. `:name` is replaced by the parameter, and `:post.slug` by
           * the field of a row in `data`. Without the row, the redirect answers 404.
           */
          to: Type.String({
            minLength: 1,
            maxLength: 500,
            pattern: '^(/(?![/\\\\])|https?://)[!-~]*$',
            description:
              'a path of this blog that starts with a single “/”, or an address that starts with http:// or https://; percent-encoded',
          }),
          status: Type.Optional(Type.Enum([...REDIRECT_STATUS])),
        },
        closed,
      ),
    ),
  },
  closed,
)
export type Route = Static<typeof Route>
export const Routes = Type.Array(Route, { maxItems: 500 })

export const SOURCES = ['posts', 'pages', 'categories', 'tags', 'authors', 'comments'] as const
export type SourceName = (typeof SOURCES)[number]

export const OPERATORS = [
  'equal',
  'not-equal',
  'less',
  'at-most',
  'more',
  'at-least',
  'in',
  'contains',
  'matches',
  'within',
  'set',
  'unset',
] as const
export type Operator = (typeof OPERATORS)[number]

const Scalar = Type.Union([Type.String({ maxLength: 500 }), Type.Number(), Type.Boolean()])
export const FieldCondition = Type.Object(
  {
    field: Type.String({ maxLength: 80 }),
    is: Type.Enum([...OPERATORS]),
    /** A value, a list of values for `in`, or a parameter such as `:category`. */
    to: Type.Optional(Type.Union([Scalar, Type.Array(Scalar, { minItems: 1, maxItems: 100 })])),
    /** `given`: the condition is skipped if its parameter is absent. */
    when: Type.Optional(Type.Enum(['given'])),
  },
  closed,
)
export type FieldCondition = Static<typeof FieldCondition>

export type Condition =
  string | FieldCondition | { any: Condition[] } | { all: Condition[] } | { not: Condition }
/** Levels to which groups may be nested. */
export const GROUPS_DEEP = 3
const conditionOf = (depth: number): TSchema => {
  const plain = [Name, FieldCondition]
  if (depth === 0)
    return Type.Union(plain, {
      description: `groups (any, all, not) may be nested ${GROUPS_DEEP} levels deep`,
    })
  const inner = conditionOf(depth - 1)
  const list = Type.Array(inner, { minItems: 1, maxItems: 20 })
  return Type.Union([
    ...plain,
    Type.Object({ any: list }, closed),
    Type.Object({ all: list }, closed),
    Type.Object({ not: inner }, closed),
  ])
}
export const Condition = Type.Unsafe<Condition>(conditionOf(GROUPS_DEEP))

export const PAST_THE_END = ['not-found', 'last', 'empty'] as const
export const PAGED_BY = ['number', 'cursor'] as const
export const COUNTED = ['exact', 'estimated'] as const
const Pages = Type.Object(
  {
    /** Comments of a post in the order of their discussion have the page size of the comment rules. */
    size: Type.Optional(Type.Integer({ minimum: 1, maximum: 100 })),
    /** `cursor`: a page starts after a row, not at an offset, so that inserts neither repeat nor skip rows. */
    by: Type.Optional(Type.Enum([...PAGED_BY])),
    parameter: Type.Optional(
      Type.String({
        pattern: '^[a-z][a-z0-9-]*$',
        maxLength: 30,
        description: 'lower-case letters, digits and hyphens, starting with a letter',
      }),
    ),
    'past-the-end': Type.Optional(Type.Enum([...PAST_THE_END])),
    /** `estimated`: above a bound, the total is PostgreSQL's estimate. Cursor listings have no total without this key. */
    count: Type.Optional(Type.Enum([...COUNTED])),
  },
  closed,
)

export const EMPTY_RULES = ['not-found', 'next-route', 'allow'] as const
export const Query = Type.Object(
  {
    from: Type.Enum([...SOURCES]),
    with: Type.Optional(Type.Array(Type.String({ maxLength: 40 }), { maxItems: 12 })),
    where: Type.Optional(Type.Array(Condition, { maxItems: 20 })),
    /** Returns the number of rows for each combination of these fields instead of the rows. */
    'count-by': Type.Optional(Type.Array(Type.String({ maxLength: 60 }), { minItems: 1, maxItems: 6 })),
    order: Type.Optional(
      Type.Array(
        Type.String({
          pattern: '^-?[a-zA-Z.]+$',
          maxLength: 60,
          description: 'a field; “-” in front of it sorts in descending order',
        }),
        { maxItems: 6 },
      ),
    ),
    /** `one` · `first 5` · `all` · `pages` */
    take: Type.String({
      pattern: '^(one|all|pages|first [1-9][0-9]{0,2})$',
      description: 'one, all, pages, or first with a number up to 999',
    }),
    pages: Type.Optional(Pages),
    empty: Type.Optional(Type.Enum([...EMPTY_RULES])),
  },
  closed,
)
export type Query = Static<typeof Query>

/** Indexes on the blog's tables, in addition to those that every blog has. */
export const Indexes = Type.Array(
  Type.Object(
    {
      name: Name,
      on: Type.Enum([...SOURCES]),
      /** Fields or to-one relations; `-` in front for descending order, `nulls last` after it. */
      keys: Type.Array(
        Type.String({
          pattern: '^-?[a-zA-Z]+( nulls last)?$',
          maxLength: 60,
          description: 'a field; “-” in front for descending order, “nulls last” after it',
        }),
        { minItems: 1, maxItems: 6 },
      ),
    },
    closed,
  ),
  { maxItems: 20 },
)

export const Settings = Type.Object(
  {
    title: Line(120),
    tagline: Type.Optional(Line(200)),
    /** The public origin of the blog: scheme, host and port. */
    origin: Type.Optional(
      Type.String({
        pattern: '^https?://[^/\\s]+$',
        maxLength: 200,
        description: 'http:// or https:// and a host, without a path',
      }),
    ),
    language: Type.Optional(
      Type.String({
        pattern: '^[a-z]{2,3}(-[A-Za-z0-9]+)*$',
        maxLength: 35,
        description: 'a language tag such as en or en-GB',
      }),
    ),
    'time-zone': Type.Optional(Type.String({ maxLength: 60 })),
    addresses: Type.Optional(
      Type.Object(
        {
          'letter-case': Type.Optional(Type.Enum([...LETTER_CASES])),
          'trailing-slash': Type.Optional(Type.Enum([...TRAILING_SLASHES])),
        },
        closed,
      ),
    ),
    slugs: Type.Optional(
      Type.Object(
        {
          'max-length': Type.Optional(Type.Integer({ minimum: 10, maximum: 100 })),
          reserved: Type.Optional(Type.Array(SlugText, { maxItems: 500 })),
        },
        closed,
      ),
    ),
    /** Restricts the HTML that posts and pages may contain. */
    html: Type.Optional(
      Type.Object(
        {
          /** False: HTML in a text is shown as text. */
          typed: Type.Optional(Type.Boolean()),
          /** Elements that are dropped; their text is kept. */
          without: Type.Optional(
            Type.Array(Type.Enum(ALLOWED_ELEMENTS.map((one) => one.name)), { maxItems: 100 }),
          ),
        },
        closed,
      ),
    ),
    /** What texts may embed from other sites. */
    embeds: Type.Optional(Type.Array(Embed, { maxItems: 50 })),
    /** Data for the templates of all routes. It is fetched for pages whose templates read it; a route may replace it. */
    data: Type.Optional(Data),
    'not-found': Type.Optional(
      Type.Object(
        {
          template: Type.String({ pattern: '^pages/', description: 'pages/NAME' }),
          data: Type.Optional(Data),
        },
        closed,
      ),
    ),
    /** The template of plain error pages, which need no data. */
    error: Type.Optional(Type.String({ pattern: '^pages/', maxLength: 120, description: 'pages/NAME' })),
    /** Replaces texts that the blog gives readers, by their names. */
    messages: Type.Optional(
      Type.Record(Type.String({ maxLength: 60 }), Type.String({ minLength: 1, maxLength: 500 }), {
        maxProperties: 100,
      }),
    ),
    comments: Type.Optional(CommentRules),
  },
  closed,
)
export type Settings = Static<typeof Settings>

export type { Static, TSchema }

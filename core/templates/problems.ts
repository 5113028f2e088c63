/** The problems of templates, at parsing and at rendering. */
import { catalogue, wording } from '../shapes/catalogue.ts'
import { templatePath } from '../shapes/documents.ts'

export const TEMPLATE_PROBLEMS = catalogue({
  'template-syntax': wording((reason: string) => ({ message: reason }), 'Output “{{ post.title” not closed.'),
  'template-filter-unknown': wording(
    (name: string) => ({ message: `There is no filter “${name}”.` }),
    'exerpt',
  ),
  'template-tag-unknown': wording((name: string) => ({ message: `There is no tag “${name}”.` }), 'shout'),
  'template-tag-not-open': wording(
    (name: string, open: { name: string; line: number } | undefined) =>
      open
        ? {
            message: `“${name}” comes while “${open.name}” is open, which begins on line ${open.line}.`,
            hint: `Add {% end${open.name} %} before it.`,
          }
        : { message: `“${name}” closes a tag that is not open.`, hint: 'A tag before it may not be closed.' },
    'endfor',
    { name: 'if', line: 3 } as { name: string; line: number } | undefined,
  ),
  'template-too-deep': wording(() => ({ message: 'The template is nested too deeply.' })),
  'template-missing': wording(
    (name: string, hint: string) => ({
      message: `There is no template “${name}”.`,
      hint,
      missing: templatePath(name),
    }),
    'partials/crad',
    'Did you mean “partials/card”?',
  ),
  'template-name-computed': wording(
    (tag: string) => ({
      message: `The name after “${tag}” is computed, so it cannot be checked.`,
      hint: 'Write the name in quotes.',
    }),
    'render',
  ),
  'template-renders-itself': wording(
    (name: string, path: readonly string[]) => ({
      message: `“${name}” renders itself: ${path.join(' → ')}.`,
      hint: 'Remove one of these calls.',
    }),
    'partials/card',
    ['partials/card', 'partials/list', 'partials/card'],
  ),
  'template-render-failed': wording((reason: string) => ({ message: reason }), 'Rendering failed.'),
  'template-render-slow': wording(
    (milliseconds: number) => ({
      message: `Rendering was stopped after ${milliseconds.toLocaleString('en-GB')} ms, most of which was spent waiting for the processor.`,
    }),
    1_000,
  ),
  'template-runaway': wording(
    (milliseconds: number) => ({
      message: `Rendering was stopped: it was not finished after ${milliseconds.toLocaleString('en-GB')} ms of work.`,
      hint: 'Shorten the loops that lead to this line.',
    }),
    150,
  ),
  'template-list-too-long': wording(
    (items: number, most: number) => ({
      message: `This would be a list of ${items.toLocaleString('en-GB')} items. At most ${most.toLocaleString('en-GB')} are possible.`,
    }),
    20_000_000,
    50_000,
  ),
  'template-text-too-long': wording(
    (characters: number, most: number) => ({
      message: `This would be a text of ${characters.toLocaleString('en-GB')} characters. At most ${most.toLocaleString('en-GB')} are possible.`,
    }),
    5_000_000,
    2_000_000,
  ),
  'template-page-too-long': wording(
    (limit: number) => ({ message: `The page is longer than ${limit.toLocaleString('en-GB')} characters.` }),
    10_000_000,
  ),
  'template-raw-not-safe': wording(() => ({
    message: '“raw” prints safe HTML only, and this value is plain text.',
    hint: 'Print it without “raw”.',
  })),
  'template-structured-data-of': wording(
    (given: string) => ({
      message: `“structured_data” describes a post or “blog”, and this value is ${given}.`,
      hint: 'Write post | structured_data on the page of a post.',
    }),
    'a text',
  ),
  'template-picture-of': wording(
    (given: string) => ({
      message: `“picture” shows an image, and this value is ${given}.`,
      hint: 'Write post.image | picture, with “image” among the related rows of the query.',
    }),
    'a text',
  ),
  'template-picture-argument': wording(
    (given: string, known: readonly string[]) => ({
      message: `“picture” has no argument “${given}”.`,
      hint: `It takes ${known.join(', ')}.`,
    }),
    'width',
    ['sizes', 'loading', 'class', 'text'],
  ),
  'template-expression-computed': wording(
    (filter: string) => ({
      message: `The expression of “${filter}” is computed, so it cannot be checked.`,
      hint: 'Write both the name and the expression in quotes.',
    }),
    'where_exp',
  ),
  'template-asset-missing': wording(
    (name: string) => ({ message: `There is no asset “${name}”.` }),
    'blog.cs',
  ),
  'template-address-failed': wording((reason: string) => ({ message: reason }), 'Route “post” needs “slug”.'),
})

export const FRAGMENT_PROBLEMS = catalogue({
  'fragment-name-invalid': wording(() => ({
    message: 'A fragment needs a name in quotes: lower-case letters, digits and hyphens.',
  })),
  'fragment-lifetime-missing': wording(() => ({
    message: 'A fragment needs a lifetime.',
    hint: "Add lifetime: '1h'.",
  })),
  'fragment-lifetime-invalid': wording(
    (text: string) => ({ message: `“${text}” is not a lifetime.`, hint: 'Write 45s, 30m, 1h or 7d.' }),
    '1 hour',
  ),
  'fragment-argument-unknown': wording(
    (name: string) => ({
      message: `A fragment has no argument “${name}”.`,
      hint: "Known: vary: value, lifetime: '1h'.",
    }),
    'until',
  ),
  'fragment-not-closed': wording(
    (name: string) => ({ message: `Fragment “${name}” is not closed.`, hint: 'Add {% endfragment %}.' }),
    'aside',
  ),
  'fragment-reads-request': wording(
    (fragment: string, what: string) => ({
      message: `Fragment “${fragment}” reads ${what}, which contains anything that a reader adds to the address.`,
      hint: 'Move it out of the fragment. request.path, request.route, request.params and request.canonical can be read.',
    }),
    'aside',
    'request.query',
  ),
  'fragment-has-page-links': wording(
    (fragment: string, path: string) => ({
      message: `Fragment “${fragment}” prints ${path}: page links keep anything that a reader adds to the address.`,
      hint: 'Move the page links out of the fragment.',
    }),
    'list',
    'posts.next.url',
  ),
  'fragment-has-block': wording(
    (fragment: string, tag: string) => ({
      message: `Fragment “${fragment}” contains “${tag}”, which another template fills.`,
      hint: 'Put the fragment inside the block instead.',
    }),
    'page',
    'block',
  ),
  'fragment-ends-loop': wording(
    (fragment: string, tag: string) => ({
      message: `“${tag}” in fragment “${fragment}” belongs to a loop around it, which a stored copy cannot end.`,
      hint: `Move “${tag}” out of the fragment.`,
    }),
    'card',
    'break',
  ),
  'fragment-assigns': wording(
    (fragment: string, name: string, line: number) => ({
      message: `Fragment “${fragment}” assigns “${name}”, which is read after it (line ${line}): a stored copy assigns nothing.`,
      hint: 'Assign it before the fragment.',
    }),
    'card',
    'total',
    12,
  ),
  'fragment-reads-visitor': wording(
    (fragment: string, name: string) => ({
      message: `Fragment “${fragment}” reads “${name}”, which differs between readers.`,
      hint: 'Move it out of the fragment.',
    }),
    'aside',
    'visitor',
  ),
  'fragment-vary-not-plain': wording(() => ({
    message: '“vary” needs a plain value such as post.id, not a row or a list.',
  })),
})

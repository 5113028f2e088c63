/** The problems of a definition as a whole: settings, routes, and documents that do not fit together. */
import { catalogue, wording } from '../shapes/catalogue.ts'
import { assetPath, queryPath, templatePath } from '../shapes/documents.ts'

export const SETTINGS_PROBLEMS = catalogue({
  'settings-missing': wording(() => ({
    message: 'The settings are missing.',
    hint: 'Create blog.yaml with at least “title: …”.',
  })),
  'settings-time-zone-unknown': wording(
    (zone: string) => ({
      message: `“${zone}” is not a known time zone.`,
      hint: 'Use a name such as Europe/London.',
    }),
    'Europe/Cobble',
  ),
  'embed-without-place': wording(
    (address: string) => ({
      message: `“${address}” is a single address.`,
      hint: 'Write “:name” for the part that differs, e.g. https://films.example/watch/:film.',
    }),
    'https://films.example/',
  ),
  'embed-value-unknown': wording(
    (name: string, known: readonly string[]) => ({
      message: `The frame has “:${name}”, which the address does not have.`,
      hint:
        known.length === 0
          ? 'The address has none.'
          : `The address has ${known.map((one) => `:${one}`).join(', ')}.`,
    }),
    'id',
    ['film'],
  ),
  'message-unknown': wording(
    (name: string, hint: string) => ({
      message: `“${name}” is not the name of a message.`,
      hint: hint === '' ? 'docs/definition.md lists the messages.' : hint,
    }),
    'not-found-titel',
    'Did you mean “not-found-title”?',
  ),
  'message-value-unknown': wording(
    (name: string, value: string, values: readonly string[]) => ({
      message: `Message “${name}” has no value “{${value}}”.`,
      hint:
        values.length === 0
          ? 'It has no values.'
          : `Its values are ${values.map((one) => `{${one}}`).join(', ')}.`,
    }),
    'comment-name-too-long',
    'count',
    ['length', 'maximum'],
  ),
  'error-template-reads': wording(
    (template: string, name: string, allowed: readonly string[]) => ({
      message: `“${template}” reads “${name}”, which error pages do not have.`,
      hint: `They are also shown when the database does not respond. They can read ${allowed.join(', ')}.`,
    }),
    'pages/error',
    'navigation',
    ['blog', 'error', 'request', 'now'],
  ),
})

export const ROUTE_PROBLEMS = catalogue({
  'routes-missing': wording(() => ({
    message: 'The routes are missing.',
    hint: 'Create routes.yaml with a list of routes, each with a name and a path.',
  })),
  'route-name-reserved': wording(() => ({
    message: '“not-found” is the name of the 404 page.',
    hint: 'Choose another name.',
  })),
  'route-name-repeated': wording((name: string) => ({ message: `Two routes are named “${name}”.` }), 'posts'),
  'route-answers-nothing': wording(
    (name: string, answers: readonly string[]) => ({
      message: `Route “${name}” has no answer.`,
      hint: `Give it one of: ${answers.join(', ')}.`,
    }),
    'posts',
    ['template', 'feed', 'redirect'],
  ),
  'route-answers-twice': wording(
    (name: string, answers: readonly string[]) => ({
      message: `Route “${name}” has more than one answer.`,
      hint: `Keep one of: ${answers.join(', ')}.`,
    }),
    'posts',
    ['template', 'feed', 'redirect'],
  ),
  'route-pattern-invalid': wording(
    (path: string, character: number, reason: string) => ({
      message: `The path “${path}” is not valid at character ${character}: ${reason}.`,
    }),
    '/posts/:',
    8,
    'a name is missing after “:”',
  ),
  'route-type-unused': wording(
    (name: string, path: string) => ({
      message: `The path has no parameter “:${name}”.`,
      hint: `The path is ${path}.`,
    }),
    'slug',
    '/posts/:post',
  ),
  'route-feed-needs-posts': wording(() => ({
    message: '“feed” needs a list of posts in “data”.',
    hint: 'Add one, e.g. data: { posts: all-posts }.',
  })),
  'route-texts-without-feed': wording(() => ({
    message: '“texts” needs “feed”.',
    hint: 'Add “feed: atom”, or remove “texts”.',
  })),
  'route-texts-too-many': wording(
    (most: number) => ({
      message: `A feed with whole texts lists at most ${most} posts.`,
      hint: `Change the query: “take: first 20”, or pages of at most ${most}.`,
    }),
    50,
  ),
  'route-security-elsewhere': wording(
    (path: string, wanted: string) => ({
      message: `Programs do not find security.txt at ${path}.`,
      hint: `Change the path to ${wanted} (RFC 9116, section 3).`,
    }),
    '/security.txt',
    '/.well-known/security.txt',
  ),
  'route-robots-elsewhere': wording(
    (path: string, wanted: string) => ({
      message: `Search engines do not find robots.txt at ${path}.`,
      hint: `Change the path to ${wanted} (RFC 9309, section 2.3).`,
    }),
    '/blog/robots.txt',
    '/robots.txt',
  ),
  'route-then-without-action': wording(() => ({
    message: '“then” needs “action”.',
    hint: 'Add “action: add-comment”, or remove “then”.',
  })),
  'route-json-without-template': wording(() => ({
    message: '“json” needs “template”: it serves the data of the page.',
  })),
  'route-redirect-shows-nothing': wording(
    (key: string) => ({
      message: `A redirect shows no page, so “${key}” has no effect.`,
      hint: 'Remove it.',
    }),
    'data',
  ),
  'route-redirect-parameter-unknown': wording(
    (name: string, hint: string) => ({ message: `The path has no parameter “${name}”.`, hint }),
    'slugg',
    'Did you mean “slug”?',
  ),
  'route-redirect-field-unknown': wording(
    (reference: string, hint: string) => ({ message: `The redirect cannot use “${reference}”.`, hint }),
    'post.slugg',
    'Did you mean “slug”?',
  ),
  'route-comment-needs-post': wording(() => ({
    message: '“add-comment” needs the post.',
    hint: 'Add “data: { post: … }” with a query that takes one post.',
  })),
  'route-comment-post-not-published': wording(() => ({
    message: 'Comments may only be sent to published posts.',
    hint: 'Add “published” to the query.',
  })),
  'route-comment-needs-then': wording(
    (hint: string) => ({
      message: '“add-comment” needs “then”: the route of the page that shows the comment.',
      hint,
    }),
    'Did you mean “post”?',
  ),
})

export const DATA_PROBLEMS = catalogue({
  'data-name-reserved': wording(
    (name: string) => ({
      message: `“${name}” has another meaning in templates.`,
      hint: 'Choose another name.',
    }),
    'blog',
  ),
  'data-query-unknown': wording(
    (name: string, hint: string) => ({
      message: `There is no query “${name}”.`,
      hint,
      missing: queryPath(name),
    }),
    'latest-post',
    'Did you mean “latest-posts”?',
  ),
  'data-parameter-missing': wording(
    (query: string, parameter: string) => ({
      message: `The query “${query}” needs “${parameter}”, which the address does not have.`,
      hint: `Pass it: { query: ${query}, with: { ${parameter}: … } }.`,
    }),
    'posts-in-category',
    'category',
  ),
  'data-parameter-type': wording(
    (parameter: string, type: string, query: string, wanted: string) => ({
      message: `“${parameter}” is ${type}, but the query “${query}” compares it with ${wanted}.`,
      hint: 'Change its type in “params”.',
    }),
    'slug',
    'an integer',
    'post-by-slug',
    'a slug',
  ),
  'data-parameter-unused': wording(
    (query: string, parameter: string) => ({
      message: `The query “${query}” has no parameter “${parameter}”.`,
      hint: 'Remove it from “with”.',
    }),
    'latest-posts',
    'category',
  ),
  'data-value-unknown': wording(
    (name: string, hint: string) => ({
      message: `“${name}” is neither a parameter of the address nor data of this route.`,
      hint,
    }),
    'pots',
    'Did you mean “post”?',
  ),
  'data-shared-pages': wording(
    (name: string, query: string) => ({
      message: `“${name}” is data for all routes, but the query “${query}” has pages.`,
      hint: 'Take the first few rows, or declare it in the routes that have a pager for it.',
    }),
    'posts',
    'all-posts',
  ),
  'data-shared-decides': wording(
    (name: string, query: string) => ({
      message: `“${name}” is data for all routes, but without rows of the query “${query}” a page would not be found.`,
      hint: 'Add “empty: allow” to the query, or declare the data in the routes that need it.',
    }),
    'post',
    'latest-post',
  ),
  'data-page-parameter-shared': wording(
    (one: string, other: string, parameter: string) => ({
      message: `“${one}” and “${other}” both use ?${parameter}= for their pages.`,
      hint: 'Give one of the queries another “pages: { parameter: … }”.',
    }),
    'posts',
    'comments',
    'page',
  ),
  'data-cycle': wording(
    (names: readonly string[]) => ({ message: `The data depends on itself: ${names.join(' → ')}.` }),
    ['post', 'related', 'post'],
  ),
})

export const REFERENCE_PROBLEMS = catalogue({
  'template-unknown': wording(
    (name: string, hint: string) => ({
      message: `There is no template “${name}”.`,
      hint,
      missing: templatePath(name),
    }),
    'pages/hime',
    'Did you mean “pages/home”?',
  ),
  'template-route-unknown': wording(
    (name: string, hint: string) => ({ message: `There is no route “${name}”.`, hint }),
    'pots',
    'Did you mean “post”?',
  ),
  'template-route-parameter-missing': wording(
    (route: string, parameter: string) => ({
      message: `Route “${route}” needs “${parameter}”.`,
      hint: `Write {{ "${route}" | url: ${parameter}: … }}.`,
    }),
    'post',
    'slug',
  ),
  'template-route-parameter-unknown': wording(
    (route: string, parameter: string, path: string) => ({
      message: `Route “${route}” has no parameter “${parameter}”.`,
      hint: `Its path is ${path}.`,
    }),
    'post',
    'id',
    '/posts/:slug',
  ),
  'template-asset-unknown': wording(
    (name: string, hint: string) => ({
      message: `There is no asset “${name}”.`,
      hint,
      missing: assetPath(name),
    }),
    'blog.cs',
    'Did you mean “blog.css”?',
  ),
})

export const STARTING_POINT_PROBLEMS = catalogue({
  'step-needs': wording(
    (what: string) => ({ message: `This step needs ${what}.`, hint: 'Take the step that adds it first.' }),
    'a list of posts',
  ),
  'starting-point-name-taken': wording(
    (name: string) => ({
      message: `There is already a route named “${name}”.`,
      hint: 'Choose another name.',
    }),
    'posts',
  ),
  'starting-point-document-taken': wording(
    (document: string) => ({
      message: `The document “${document}” already exists.`,
      hint: 'Choose another name.',
    }),
    'queries/posts.yaml',
  ),
  'starting-point-no-post': wording(
    (path: string) => ({
      message: `No route with the path “${path}” shows one post by its slug.`,
      hint: 'Choose the route of a single post, or add one first.',
    }),
    '/posts/:slug',
  ),
  'starting-point-comments-taken': wording(
    (document: string) => ({
      message: `The document “${document}” already exists.`,
      hint: 'Rename or delete it first: comments need a document of this name.',
    }),
    'templates/partials/comments.liquid',
  ),
  'step-settings-not-editable': wording(() => ({
    message: 'blog.yaml cannot be changed by a step: it is not a list of settings, one below the other.',
    hint: 'Edit it as YAML.',
  })),
  'starting-point-routes-not-editable': wording(() => ({
    message: 'routes.yaml cannot be changed by a form: it is not a list with one route below the other.',
    hint: 'Edit it as YAML.',
  })),
})

export const EXTRACT_PROBLEMS = catalogue({
  'extract-name-taken': wording(
    (path: string) => ({ message: `${path} exists already.`, hint: 'Choose another name.' }),
    'templates/partials/card.liquid',
  ),
  'extract-definition-invalid': wording(() => ({
    message: 'The saved definition is not valid, so nothing can be extracted.',
    hint: 'Correct its problems first.',
  })),
  'extract-nothing': wording(() => ({ message: 'Nothing is selected.', hint: 'Select the markup to move.' })),
  'extract-part-of-tag': wording(() => ({
    message: 'The selection begins or ends inside a tag, or has only one end of it.',
    hint: 'Select whole tags, such as everything from {% if %} to {% endif %}.',
  })),
  'extract-block': wording(() => ({
    message: 'The selection has a block, a layout, “break” or “continue”, which partials cannot have.',
    hint: 'Select what is inside it.',
  })),
  'extract-assigned': wording(
    (name: string) => ({
      message: `The selection assigns “${name}”, which is read after it. Partials do not give values back.`,
      hint: 'Leave the assignment out of the selection.',
    }),
    'count',
  ),
})

export const REARRANGING_PROBLEMS = catalogue({
  'rearranging-causes-fault': wording(
    (message: string) => ({
      message: `The change would cause a fault in the templates. ${message}`,
      hint: 'Make the change by hand.',
    }),
    'No value has the name “entry”.',
  ),
  'rename-not-possible': wording(
    (path: string) => ({
      message: `${path} cannot be renamed.`,
      hint: 'Only templates, assets and queries have names to choose.',
    }),
    'routes.yaml',
  ),
  'rename-name-invalid': wording(
    (to: string, from: string) => ({
      message: `${from} cannot be renamed to “${to}”.`,
      hint: 'Use a-z, 0-9 and “-”. Templates are in layouts/, pages/ or partials/. The extension cannot change.',
    }),
    'templates/partials/Card.liquid',
    'templates/partials/card.liquid',
  ),
  'rename-name-taken': wording(
    (path: string) => ({ message: `${path} exists already.`, hint: 'Choose another name.' }),
    'templates/partials/card.liquid',
  ),
  'rename-use-unclear': wording(
    (line: number) => ({
      message: `The name in line ${line} cannot be found in the text, so it cannot be changed.`,
      hint: 'Change it by hand.',
    }),
    12,
  ),
  'rename-value-nothing': wording(() => ({
    message: 'There is no variable of this template here.',
    hint: 'Place the cursor on a variable that “assign”, “capture” or a loop sets, or on an argument of this partial.',
  })),
  'rename-value-data': wording(
    (name: string) => ({
      message: `“${name}” is data of a route, or a value that all templates see.`,
      hint: 'Rename data in routes.yaml. The names of other values are fixed.',
    }),
    'posts',
  ),
  'rename-value-name': wording(
    (name: string) => ({
      message: `“${name}” is not a valid name.`,
      hint: 'A name has letters, digits and “_”, and begins with a letter.',
    }),
    '2nd',
  ),
  'rename-value-taken': wording(
    (name: string, path: string) => ({
      message: `${path} already has “${name}”.`,
      hint: 'Choose another name.',
    }),
    'entry',
    'templates/partials/card.liquid',
  ),
  'rename-value-layout': wording(
    (name: string, path: string) => ({
      message: `${path} also reads “${name}”.`,
      hint: 'Change both by hand.',
    }),
    'count',
    'templates/layouts/base.liquid',
  ),
  'inline-nothing': wording(() => ({
    message: 'No partial is rendered here.',
    hint: 'Place the cursor in a {% render %} tag.',
  })),
  'inline-each': wording(() => ({
    message: 'This tag renders the partial once for each item of a list.',
    hint: 'Write a loop around a {% render %} tag first.',
  })),
  'inline-state': wording(
    (tag: string) => ({
      message: `The partial has “${tag}”, which would mean something else here.`,
      hint: 'Leave it in a partial.',
    }),
    'cycle',
  ),
})

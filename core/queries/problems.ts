/** The problems of queries. */
import { catalogue, wording } from '../shapes/catalogue.ts'

const list = (items: readonly string[]) => (items.length === 0 ? 'none' : items.join(', '))

export const QUERY_PROBLEMS = catalogue({
  'query-relation-unknown': wording(
    (source: string, name: string, known: readonly string[]) => ({
      message: `“${source}” has no relation or count “${name}”.`,
      hint: `Known: ${list(known)}.`,
    }),
    'posts',
    'categorie',
    ['category', 'author', 'image', 'tags', 'commentCount'],
  ),
  'query-condition-unknown': wording(
    (source: string, name: string, known: readonly string[]) => ({
      message: `“${source}” has no named condition “${name}”.`,
      hint: `Known: ${list(known)}.`,
    }),
    'posts',
    'visible',
    ['published'],
  ),
  'query-field-unknown': wording(
    (source: string, field: string, known: string) => ({
      message: `“${source}” has no field “${field}”.`,
      hint: known,
    }),
    'posts',
    'titel',
    'Fields: id, title, slug. Relations: category, author.',
  ),
  'query-field-not-comparable': wording(
    (field: string) => ({ message: `“${field}” is a long text and cannot be compared.` }),
    'html',
  ),
  'query-when-without-parameter': wording(() => ({
    message: '“when: given” needs a parameter, and this condition has none.',
    hint: 'Write “to: :name”, or remove “when”.',
  })),
  'query-value-unexpected': wording(
    (operator: string) => ({ message: `“${operator}” takes no value.`, hint: 'Remove “to”.' }),
    'set',
  ),
  'query-value-missing': wording(
    (operator: string) => ({ message: `“${operator}” needs a value in “to”.` }),
    'equal',
  ),
  'query-within-needs-category': wording(
    (field: string) => ({
      message: `“within” compares the slug of a category, and “${field}” is not one.`,
      hint: 'Write “{ field: category.slug, is: within, to: ":category" }”.',
    }),
    'title',
  ),
  'query-matches-needs-words': wording(
    (field: string, type: string) => ({
      message: `“matches” searches words, and “${field}” is ${type}.`,
      hint: 'Write “{ field: words, is: matches, to: ":q" }”.',
    }),
    'title',
    'a text',
  ),
  'query-words-need-matches': wording(
    (field: string) => ({
      message: `“${field}” can only be searched with “matches”.`,
      hint: 'Write “{ field: words, is: matches, to: ":q" }”.',
    }),
    'words',
  ),
  'query-in-needs-list': wording(() => ({ message: '“in” needs a list of values.' })),
  'query-list-unexpected': wording(
    (operator: string) => ({ message: `“${operator}” compares with one value, not with a list.` }),
    'equal',
  ),
  'query-contains-needs-text': wording(
    (field: string, type: string) => ({ message: `“contains” compares texts, and “${field}” is ${type}.` }),
    'publishedAt',
    'a time',
  ),
  'query-value-type': wording(
    (value: string, type: string) => ({ message: `${value} is not ${type}.` }),
    '"soon"',
    'a time',
  ),
  'query-pages-unexpected': wording(() => ({
    message: '“pages” needs “take: pages”.',
    hint: 'Write “take: pages”, or remove “pages”.',
  })),
  'query-pages-missing': wording(() => ({
    message: '“take: pages” needs the size of a page.',
    hint: 'Add “pages: { size: 10 }”.',
  })),
  'query-next-route-needs-one': wording(() => ({
    message: '“empty: next-route” needs “take: one”.',
  })),
  'query-cursor-has-no-end': wording(() => ({
    message: 'Cursor listings have no page numbers, so no request is beyond the last page.',
    hint: 'Remove “past-the-end”.',
  })),
  'query-order-unknown': wording(
    (field: string, known: readonly string[]) => ({
      message: `Counted rows have no field “${field}” to order by.`,
      hint: `Known: ${list(known)}.`,
    }),
    'title',
    ['count', 'publishedYear'],
  ),
  'query-order-needs-search': wording(() => ({
    message: '“relevance” needs a condition that searches.',
    hint: 'Add “{ field: words, is: matches, to: ":q" }”, or order by another field.',
  })),
  'query-order-not-possible': wording(
    (field: string, known: string) => ({ message: `Rows cannot be ordered by “${field}”.`, hint: known }),
    'html',
    'Fields: id, title, slug.',
  ),
  'query-count-by-too-many-values': wording(
    (field: string, isTime: boolean) => ({
      message: `“${field}” has almost as many values as rows, so counting by it is pointless.`,
      hint: isTime ? 'Count by its year, month or day.' : undefined,
    }),
    'publishedAt',
    true,
  ),
  'query-count-by-repeated': wording(
    (field: string) => ({ message: `“${field}” is listed twice.`, hint: 'Remove one of them.' }),
    'publishedYear',
  ),
  'query-count-by-needs-all': wording(() => ({
    message: '“count-by” needs “take: all” or “take: first …”.',
  })),
  'query-count-by-has-no-relations': wording(() => ({
    message: 'Counted rows have no related rows.',
    hint: 'Name the fields in “count-by”, e.g. category.slug, category.name.',
  })),
})

export const INDEX_PROBLEMS = catalogue({
  'index-name-repeated': wording(
    (name: string) => ({ message: `Two indexes are named “${name}”.` }),
    'posts-by-title',
  ),
  'index-repeated': wording(() => ({
    message: 'Another index has the same keys.',
    hint: 'Remove one of them.',
  })),
  'index-key-not-possible': wording(
    (source: string, field: string) => ({
      message: `“${source}” cannot be indexed by “${field}”.`,
      hint: 'Name short fields, or relations to one row.',
    }),
    'posts',
    'html',
  ),
  'index-key-repeated': wording((field: string) => ({ message: `“${field}” is listed twice.` }), 'title'),
})

import { expect, it } from 'vitest'
import { pagersOf } from './pager.ts'

const nav = (inside: string) =>
  pagersOf(`<main><p>1 2 3</p></main><nav>${inside}</nav>`, '/posts?q=a&page=2', 'page')
const links = '<a href="/posts?q=a">1</a> <b aria-current="page">2</b> <a href="?q=a&amp;page=3">3</a>'

it.each([
  [links, { numbers: [1, 3], sameName: undefined, misnumbered: [], isMarked: true, marked: 2, said: [] }],
  [
    links.replace(' aria-current="page"', ''),
    { numbers: [1, 3], sameName: undefined, misnumbered: [], isMarked: false, marked: undefined, said: [2] },
  ],
  [
    links.replace('="page"', '="false"'),
    { numbers: [1, 3], sameName: undefined, misnumbered: [], isMarked: false, marked: undefined, said: [2] },
  ],
  [
    `${links} <span>Posts 7 to 12 of <i>1,042</i></span>`,
    { numbers: [1, 3], sameName: undefined, misnumbered: [], isMarked: true, marked: 2, said: [7, 12, 1042] },
  ],
  [
    links.replace('>3<', '>4<'),
    {
      numbers: [1],
      sameName: undefined,
      misnumbered: [{ text: '4', page: 3 }],
      isMarked: true,
      marked: 2,
      said: [],
    },
  ],
  [
    '<a href="?page=1" aria-label="Page">1</a> <a href="?page=3" aria-label="Page">3</a>',
    {
      numbers: [1, 3],
      sameName: { name: 'Page', pages: [1, 3] },
      misnumbered: [],
      isMarked: false,
      marked: undefined,
      said: [],
    },
  ],
  [
    links.replace('>2<', '>second<'),
    {
      ...{ numbers: [1, 3], sameName: undefined, misnumbered: [] },
      ...{ isMarked: true, marked: undefined, said: [] },
    },
  ],
  // Two links to the same page may have the same name.
  [
    '<a href="?page=3">Next</a> <a href="?page=3">Next</a>',
    { numbers: [], sameName: undefined, misnumbered: [], isMarked: false, marked: undefined, said: [] },
  ],
  // Texts of links are not what the page says about itself.
  [
    '<a href="?page=3">Page 3 of 9</a>',
    { numbers: [], sameName: undefined, misnumbered: [], isMarked: false, marked: undefined, said: [] },
  ],
])('%s', (inside, wanted) => expect(nav(inside)).toEqual([wanted]))

it.each([
  '<a href="/posts">Journal</a> <a href="/about">About 2</a>',
  '<a href="/tags?page=2">2</a>',
  '<a href="https://elsewhere.example/posts?page=3">3</a>',
  '',
])('a navigation that does not lead to other pages of the listing is left out: %s', (inside) =>
  expect(nav(inside)).toEqual([]),
)

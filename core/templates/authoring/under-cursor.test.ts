// What a template names under the cursor, which is marked with ^.
import { describe, expect, it } from 'vitest'
import { namedAt } from './under-cursor.ts'

const under = (marked: string) => {
  const at = marked.indexOf('^')
  const found = namedAt(marked.replace('^', ''), at)
  return found && `${found.kind} ${found.value}`
}

describe('under the cursor', () => {
  it.each<[string, string | undefined]>([
    ['{{ po^st.title }}', 'path post'],
    ['{{ post.ti^tle }}', 'path post.title'],
    ['{{ post.category.na^me | upcase }}', 'path post.category.name'],
    ['{{ post.cate^gory.name }}', 'path post.category'],
    ['{{ posts.items[0].ti^tle }}', 'path posts.items[0].title'],
    ["{% render 'partials/ca^rd', post: post %}", 'text partials/card'],
    ["{% render 'partials/card', post: po^st %}", 'path post'],
    ['{{ "post" | url: slug: post.sl^ug }}', 'path post.slug'],
    ['{% for one in posts^.items %}', 'path posts'],
    ['a post.ti^tle b', undefined],
    ['{{ a }} po^st {{ b }}', undefined],
    ['{{ a ^ }}', undefined],
    ['{% if post.im^age', 'path post.image'],
  ])('%s is %s', (marked, wanted) => expect(under(marked)).toBe(wanted))
})

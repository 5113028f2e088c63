/** Finds honeypots that readers see, reach with the keyboard, or have filled in by their browser. */
import { hiddenClasses } from '../hidden-classes.ts'
import { lineAt, witness, type Rule } from '../rule.ts'

/** The honeypot in a template. */
const FIELD = /<input\b[^<>]*\{\{-?\s*form\.honeypot\b[^<>]*>/
/** Characters before the field in which the element around it starts. */
const BEFORE = 400

export const honeypotNoticed: Rule = {
  id: 'honeypot-noticed',
  area: 'comments',
  meaning:
    'Readers see the honeypot, which only robots should fill in, reach it with the keyboard, or have it filled in by their browser.',
  why: 'The comments of readers who fill it in are taken for those of robots.',
  run(facts) {
    const hidden = hiddenClasses(facts.definition.assets)
    const fields = [...facts.documents].flatMap(([document, text]) => {
      const found = document.startsWith('templates/') ? FIELD.exec(text) : null
      return found ? [{ document, text, tag: found[0], at: found.index }] : []
    })
    const findings = fields.flatMap(({ document, text, tag, at }) => {
      const around = openTags(text.slice(Math.max(0, at - BEFORE), at))
      const tags = [tag, ...around]
      const classes = tags.flatMap(classesOf).flatMap((name) => hidden.get(name) ?? [])
      const isRemoved = tags.some((one) => /\bhidden\b/.test(one)) || classes.some((one) => one.isRemoved)
      const isSeen = !isRemoved && classes.length === 0 && !tags.some((one) => one.includes('style='))
      const faults = [
        ...(isSeen
          ? [['is visible to readers', 'no style that hides it', 'a hidden element around it']]
          : []),
        ...(isRemoved || /\btabindex="?-1/.test(tag)
          ? []
          : [['can be reached with the keyboard', 'no tabindex', 'tabindex="-1"']]),
        ...(/\bautocomplete="?(off|new-password|one-time-code)/.test(tag)
          ? []
          : [['may be filled in by browsers', 'no autocomplete="off"', 'autocomplete="off"']]),
      ]
      return faults.map(([what = '', actual = '', expected = '']) => ({
        subject: `${document} ${what}`,
        title: `The honeypot ${what}`,
        detail: `${document} prints it as ${tag}`,
        affects: 'now' as const,
        witness: witness(null, `${tag} in ${document}`, actual, expected),
        cause: 'Hide the element around it, and add tabindex="-1" and autocomplete="off".',
        place: { document, line: lineAt(text, at) },
        others: [],
        fixes: [],
      }))
    })
    return Promise.resolve({
      findings,
      claim:
        fields.length === 0
          ? null
          : {
              sentence:
                'As far as markup and styles tell, honeypots are hidden, skipped by the keyboard, and not filled in by browsers',
              tested: fields.length,
              things: ['honeypot', 'honeypots'],
            },
    })
  },
}

/** Returns the start tags in a text that are not closed in it. */
function openTags(text: string): string[] {
  const open: string[] = []
  for (const [tag, slash] of text.matchAll(/<(\/?)[a-z][^<>]*>/gi)) {
    if (slash === '/') open.pop()
    else if (!/^<(input|br|img)\b/i.test(tag)) open.push(tag)
  }
  return open
}

const classesOf = (tag: string): string[] => /\bclass="([^"]*)"/.exec(tag)?.[1]?.split(/\s+/) ?? []

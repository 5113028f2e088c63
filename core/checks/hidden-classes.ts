/** Finds the classes whose elements are not seen (css-tree). */
import { generate, parse, walk, type CssNode } from 'css-tree'
import type { Assets } from './style-faults.ts'

/** Declarations that take an element out of the page, also for the keyboard. */
const REMOVING = [/^display:none$/, /^visibility:(hidden|collapse)$/]
/** Declarations that only take it out of sight, one by one or together. */
const HIDING = [
  /^opacity:0(\.0+)?$/,
  /^(clip|clip-path):/,
  /^(left|right|top|bottom|inset|inset-inline-start|inset-block-start|text-indent|margin|margin-left|margin-top):.*-\d{3,}/,
  /^transform:.*(scale\(0\)|translate\w*\(-\d{3,})/,
  /^(height|width|max-height|block-size):(0|1px)/,
]

/** Returns the classes in the last part of a selector whose declarations hide its elements, and whether they remove them. */
export function hiddenClasses(assets: Assets): Map<string, { isRemoved: boolean }> {
  const found = new Map<string, { isRemoved: boolean }>()
  for (const [asset, text] of assets) {
    if (!asset.endsWith('.css')) continue
    walk(parse(text), function (node: CssNode) {
      if (node.type !== 'Declaration' || !this.rule) return
      const declared = `${node.property.toLowerCase()}:${generate(node.value).toLowerCase()}`
      const isRemoved = REMOVING.some((one) => one.test(declared))
      if (!isRemoved && !HIDING.some((one) => one.test(declared))) return
      for (const selector of generate(this.rule.prelude).split(',')) {
        const [last = ''] = /[^\s>+~]*$/.exec(selector.trim()) ?? []
        for (const [, name = ''] of last.matchAll(/\.(-?[_a-zA-Z][\w-]*)/g))
          found.set(name, { isRemoved: isRemoved || found.get(name)?.isRemoved === true })
      }
    })
  }
  return found
}

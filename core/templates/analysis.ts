/** Reads from the syntax tree what a template names: partials, routes, fragments, and filters with their place. */
import { toValueSync, TypeGuards, Value, type Template, type Token } from 'liquidjs'
import { FragmentTag } from './tags.ts'

export interface Place {
  line: number
  column: number
}

export interface TemplateMentions {
  /** Partials and layouts by name; null where the name is computed. */
  templates: { name: string | null; tag: string; place: Place }[]
  /** `url` filters on a quoted route name. */
  urls: { route: string; parameters: string[]; place: Place }[]
  /** `asset` filters on a quoted name. */
  assets: { name: string; place: Place }[]
  /** `varies`: kept once for each value of something, such as a card for each post. */
  fragments: { name: string; varies: boolean; place: Place; tag: FragmentTag }[]
}

const placeOf = (token: Token): Place => {
  const [line = 1, column = 1] = token.getPosition()
  return { line, column }
}

/** What one template itself names; partials are not followed. */
export function mentionsOf(templates: readonly Template[]): TemplateMentions {
  const mentions: TemplateMentions = { templates: [], urls: [], assets: [], fragments: [] }
  const visit = (template: Template): void => {
    const tag = 'name' in template && typeof template.name === 'string' ? template.name : ''
    if (tag === 'render' || tag === 'layout') {
      const name = template.partialScope?.()?.name
      const isNone = tag === 'layout' && 'file' in template && template.file === undefined
      if (!isNone) mentions.templates.push({ name: name ?? null, tag, place: placeOf(template.token) })
    }
    if (template instanceof FragmentTag)
      mentions.fragments.push({
        name: template.fragmentName,
        varies: template.varies,
        tag: template,
        place: placeOf(template.token),
      })
    for (const argument of template.arguments?.() ?? []) noteFilters(argument, mentions)
    if (template.children)
      for (const child of toValueSync(template.children(false, true) as Generator<unknown, Template[]>))
        visit(child)
  }
  templates.forEach(visit)
  return mentions
}

function noteFilters(argument: unknown, mentions: TemplateMentions): void {
  if (!(argument instanceof Value)) return
  const [initial] = argument.initial.postfix
  if (!initial || !TypeGuards.isQuotedToken(initial)) return
  const [filter] = argument.filters
  const place = placeOf(initial)
  if (filter?.name === 'asset') mentions.assets.push({ name: initial.content, place })
  if (filter?.name === 'url') {
    const args = (filter as unknown as { args: unknown[] }).args
    const parameters = args.flatMap((one) => (Array.isArray(one) ? [String(one[0])] : []))
    mentions.urls.push({ route: initial.content, parameters, place })
  }
}

/** Embeds what addresses of texts lead to, where the developer's list has them. */
import type { StateCore } from 'markdown-it'
import { frameFor, type Embed } from '../../shapes/embeds.ts'
import { escapeHtml } from './safe-html.ts'

/** The class of frames of other sites. */
export const EMBED_CLASS = 'embed'

/** What the Markdown rule gets while a text is rendered. */
export interface EmbedEnvironment {
  embeds?: readonly Embed[] | undefined
}

/** Makes an address that is a paragraph of its own a link, if the list has it. */
export function linkEmbeds({ tokens, env, Token: Made }: StateCore): void {
  const { embeds = [] } = env as EmbedEnvironment
  if (embeds.length === 0) return
  for (const [index, { type, children }] of tokens.entries()) {
    const [text, ...more] = children ?? []
    if (type !== 'inline' || tokens[index - 1]?.type !== 'paragraph_open') continue
    if (text?.type !== 'text' || more.length > 0) continue
    const address = text.content.trim()
    if (!embeds.some((one) => frameFor(one, address) !== undefined)) continue
    const open = new Made('link_open', 'a', 1)
    open.attrSet('href', address)
    children?.splice(
      0,
      1,
      open,
      Object.assign(new Made('text', '', 0), { content: address }),
      new Made('link_close', 'a', -1),
    )
  }
}

/** A paragraph that is only a link to an address that is also its text, as sanitizing writes it. */
const LINK_ALONE = /<p><a href="([^"<>]*)"[^<>]*>([^<>]*)<\/a><\/p>/g

/** Frames run scripts of their own site, and cannot lead the page elsewhere. */
const SANDBOX = 'allow-scripts allow-same-origin allow-popups allow-presentation'

/**
 * Puts frames in place of addresses. Nothing is requested from the other site until a reader opens one: browsers do not
 * load a lazy frame that is not shown, unless scripts are switched off.
 * @param html that was sanitized
 */
export const withEmbeds = (html: string, embeds: readonly Embed[]): string =>
  embeds.length === 0
    ? html
    : html.replace(LINK_ALONE, (whole, href: string, text: string) => {
        const written = href.replaceAll('&amp;', '&')
        for (const one of embeds) {
          const frame = href === text ? frameFor(one, written) : undefined
          if (frame !== undefined) return figure(one, frame, href)
        }
        return whole
      })

/** @param href the address as an attribute has it */
function figure({ name, width = 640, height = 360 }: Embed, frame: string, href: string): string {
  const title = escapeHtml(name)
  return (
    `<figure class="${EMBED_CLASS}"><details><summary>${title}</summary>` +
    `<iframe src="${escapeHtml(frame)}" title="${title}" width="${width}" height="${height}" loading="lazy" sandbox="${SANDBOX}" allowfullscreen referrerpolicy="strict-origin-when-cross-origin"></iframe>` +
    `</details><figcaption><a href="${href}" rel="noopener nofollow">${href.replace(/^https?:\/\//, '')}</a></figcaption></figure>`
  )
}

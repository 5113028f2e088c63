/** The text of a post as feed readers show it: away from the blog, without its address and its styles. */

import { escapeHtml } from '../content/html/safe-html.ts'

/** Posts that a feed with whole texts may list: all of them are read and written for each request. */
export const MOST_WHOLE_TEXTS = 50

/** A tag. Sanitizing escapes “>” in attributes. */
const TAG = /<[a-z][^<>]*>/g
const ADDRESS = / (href|src|cite|srcset)="([^"]*)"/g
/** Frames, which feed readers do not show. The address below one remains. */
const FRAME = /(<figure class="embed">)<details>[\s\S]*?<\/details>/g

const CHARACTERS: Readonly<Record<string, string>> = {
  '&amp;': '&',
  '&lt;': '<',
  '&gt;': '>',
  '&quot;': '"',
  '&#39;': "'",
}

/**
 * Returns HTML with absolute addresses.
 * @param html that was sanitized
 * @param page the address of the post, from which relative addresses start
 */
export function withAbsoluteAddresses(html: string, page: string): string {
  const absolute = (escaped: string): string => {
    const address = escaped.replace(/&(?:amp|lt|gt|quot|#39);/g, (one) => CHARACTERS[one] ?? one)
    return URL.canParse(address, page) ? escapeHtml(new URL(address, page).href) : escaped
  }
  const candidate = (one: string) => one.trim().replace(/^\S+/, absolute)
  return html
    .replace(FRAME, '$1')
    .replace(TAG, (tag) =>
      tag.replace(ADDRESS, (_, name: string, value: string) =>
        name === 'srcset'
          ? ` srcset="${value.split(',').map(candidate).join(', ')}"`
          : ` ${name}="${absolute(value)}"`,
      ),
    )
}

/** The text of a post as feed readers show it: away from the blog, without its address and its styles. */
import { parseFragment, serialize, type DefaultTreeAdapterTypes } from 'parse5'

type Node = DefaultTreeAdapterTypes.ChildNode

/** Attributes that hold one address. */
const ADDRESSES = new Set(['href', 'src', 'cite'])

/**
 * Returns safe HTML with absolute addresses.
 * @param page the address of the post, from which relative ones start
 */
export function withAbsoluteAddresses(html: string, page: string): string {
  const absolute = (address: string): string => {
    try {
      return new URL(address, page).href
    } catch {
      return address
    }
  }
  const fragment = parseFragment(html)
  const work: Node[] = [...fragment.childNodes]
  for (let node = work.pop(); node; node = work.pop()) {
    if (!('attrs' in node)) continue
    for (const one of node.attrs)
      if (ADDRESSES.has(one.name)) one.value = absolute(one.value)
      else if (one.name === 'srcset')
        one.value = one.value
          .split(',')
          .map((candidate) => candidate.trim().replace(/^\S+/, absolute))
          .join(', ')
    // Feed readers show no frames; the address below one remains.
    if (node.attrs.some(({ name, value }) => name === 'class' && value === 'embed'))
      node.childNodes = node.childNodes.filter((one) => one.nodeName !== 'details')
    work.push(...node.childNodes)
  }
  return serialize(fragment)
}

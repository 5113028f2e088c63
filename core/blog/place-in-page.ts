/** Finds where a part belongs in a page that its author has written. */

/** Where the main part of a page ends: its element, the last block but one, or the body. */
const END_OF_MAIN = [/(?=<\/main>)/, /(?=\{%-?\s*endblock)(?![\s\S]*endblock[\s\S]*endblock)/, /(?=<\/body>)/]

/** Adds a part at the end of the main part of a page, or of the page. @param part whole lines */
export function atEndOfMain(page: string, part: string): string {
  for (const end of END_OF_MAIN) if (end.test(page)) return page.replace(end, () => part)
  return `${page.replace(/\n*$/, '\n')}${part}`
}

/** Adds a part below the last article, or at the end of the main part. @param part whole lines */
export function belowArticle(page: string, part: string): string {
  const article = /<\/article>[ \t]*\n?(?![\s\S]*<\/article>)/
  return article.test(page) ? page.replace(article, (end) => `${end}${part}`) : atEndOfMain(page, part)
}

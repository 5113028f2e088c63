/** Finds a blog whose language is not that of its texts. */
import { crawl } from '../crawl.ts'
import { counted, isOfPost, lineOf, witness, type Rule } from '../rule.ts'
import { otherLanguage } from '../text-language.ts'

/** The pages of posts whose texts are read. */
const PAGES = 30

export const languageWrong: Rule = {
  id: 'language-wrong',
  area: 'content',
  meaning: 'The language of the blog is not that of its texts.',
  why: 'Screen readers pronounce the texts in the wrong language, browsers offer to translate them, and dates and messages are in another language.',
  async run(facts) {
    const language = facts.definition.settings.language ?? 'en'
    const { pages } = await crawl(facts)
    const posts = pages
      .filter((one) => one.status === 200 && isOfPost(facts, one.route ?? ''))
      .slice(0, PAGES)
    const other = otherLanguage(posts.map((one) => one.prose).join('\n'), language)
    if (other === undefined)
      return {
        findings: [],
        claim:
          posts.length === 0
            ? null
            : {
                sentence:
                  'The texts of the visited posts are not in another language than the blog, as far as it can be detected',
                tested: posts.length,
                things: ['post', 'posts'],
              },
      }
    const name = (code: string) => new Intl.DisplayNames('en', { type: 'language' }).of(code) ?? code
    const [first] = posts
    return {
      findings: [
        {
          subject: language,
          title: `blog.yaml has “language: ${language}”, but the posts are in ${name(other)}`,
          detail: `The language was detected from the text of ${counted(posts.length, 'post')}.`,
          affects: 'now',
          witness: witness(
            first?.path ?? null,
            `The text of ${first?.path ?? ''}`,
            name(other),
            name(language),
          ),
          cause: 'The language was left as it was, or belongs to another blog.',
          place: { document: 'blog.yaml', line: lineOf(facts.documents.get('blog.yaml'), 'language:') },
          others: [],
          fixes: [],
        },
      ],
      claim: null,
    }
  },
}

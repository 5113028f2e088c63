/** Finds times that browsers and search engines cannot read. */
import { crawl } from '../crawl.ts'
import { placeInTemplates } from '../page-place.ts'
import type { Facts } from '../facts.ts'
import { contradictedDay, monthNames } from '../shown-date.ts'
import { witness, type Rule, type RuleFinding } from '../rule.ts'

const DATE = String.raw`\d{4,}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])`
const TIME = String.raw`([01]\d|2[0-3]):[0-5]\d(:[0-5]\d(\.\d{1,3})?)?`
const ZONE = String.raw`(Z|[+-]([01]\d|2[0-3]):?[0-5]\d)`
/** The forms of HTML’s <time datetime> (https://html.spec.whatwg.org/multipage/text-level-semantics.html#datetime-value). */
const READABLE = new RegExp(
  `^\\s*(${[
    String.raw`\d{4,}(-(0[1-9]|1[0-2]))?`,
    DATE,
    String.raw`(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])`,
    `${TIME}`,
    `${DATE}[T ]${TIME}${ZONE}?`,
    ZONE,
    String.raw`\d{4,}-W(0[1-9]|[1-4]\d|5[0-3])`,
    String.raw`P(?=\d|T\d)(\d+D)?(T(\d+H)?(\d+M)?(\d+(\.\d{1,3})?S)?)?`,
    String.raw`(\s*\d+(\.\d{1,3})?\s*[wdhms])+`,
  ].join('|')})\\s*$`,
  'i',
)

/** Whether a value of `datetime` is one that browsers read. */
export const isReadableTime = (text: string): boolean => READABLE.test(text)

export const timeUnreadable: Rule = {
  id: 'time-unreadable',
  area: 'templates',
  meaning:
    'The datetime attribute of a <time> is not a time that machines can read, or another one than readers see.',
  why: 'Browsers, screen readers and search engines ignore it.',
  async run(facts) {
    const { pages } = await crawl(facts)
    const { language = 'en', 'time-zone': timeZone = 'UTC' } = facts.definition.settings
    const words = { months: monthNames(language), timeZone }
    const findings: RuleFinding[] = []
    let tested = 0
    for (const { path, route, times } of pages)
      for (const { value: time, text } of times) {
        tested++
        if (isReadableTime(time)) {
          const day = contradictedDay(time, text, words)
          if (day === undefined) continue
          findings.push(contradiction(facts, { path, route, time, text: text.trim(), day }))
          continue
        }
        const place =
          placeInTemplates(facts, route, /datetime="[^"]*\|\s*date\b/) ??
          placeInTemplates(facts, route, /<time>/) ??
          placeInTemplates(facts, route, /datetime=/)
        const subject = place ? `${place.document}:${place.line ?? ''}` : (route ?? path)
        findings.push({
          subject,
          title: `${path} has the time “${time}”, which machines cannot read`,
          detail: 'Dates are written as 2026-03-02, and times as 2026-03-02T09:00:00Z.',
          affects: 'now',
          witness: witness(
            path,
            time === text.trim() ? `<time>${time}</time>` : `<time datetime="${time}">`,
            time,
            '2026-03-02',
          ),
          cause: 'A template formats the date. Print it without a format: datetime="{{ post.publishedAt }}".',
          place,
          others: [],
          fixes: [],
        })
      }
    return {
      findings,
      claim: {
        sentence:
          'Machines can read every <time> of the visited pages, and no text beside one is known to be another date',
        tested,
        things: ['time', 'times'],
      },
    }
  },
}

interface Contradicted {
  path: string
  route: string | null
  time: string
  text: string
  /** The day of `time` in the time zone of the blog. */
  day: string
}

function contradiction(facts: Facts, { path, route, time, text, day }: Contradicted): RuleFinding {
  const place = placeInTemplates(facts, route, /datetime=/)
  return {
    subject: `shows ${place ? `${place.document}:${place.line ?? ''}` : (route ?? path)}`,
    title: `${path} shows “${text}” for the time ${time}`,
    detail: 'Readers see another date than search engines.',
    affects: 'now',
    witness: witness(path, `<time datetime="${time}">${text}</time>`, text, day),
    cause: 'The datetime attribute and the text are made from different values.',
    place,
    others: [],
    fixes: [],
  }
}

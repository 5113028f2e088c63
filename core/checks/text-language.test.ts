// The language of texts: articles 1 to 4 of the Universal Declaration of Human Rights, in four languages (from memory).
import { expect, it } from 'vitest'
import { otherLanguage } from './text-language.ts'

const TEXTS = {
  en: `All human beings are born free and equal in dignity and rights. They are endowed with reason and conscience and should
act towards one another in a spirit of brotherhood. Everyone is entitled to all the rights and freedoms set forth in this
Declaration, without distinction of any kind, such as race, colour, sex, language, religion, political or other opinion,
national or social origin, property, birth or other status. Everyone has the right to life, liberty and security of person. No
one shall be held in slavery or servitude; slavery and the slave trade shall be prohibited in all their forms. `,
  de: `Alle Menschen sind frei und gleich an Würde und Rechten geboren. Sie sind mit Vernunft und Gewissen begabt und sollen
einander im Geist der Brüderlichkeit begegnen. Jeder hat Anspruch auf die in dieser Erklärung verkündeten Rechte und Freiheiten
ohne irgendeinen Unterschied, etwa nach Rasse, Hautfarbe, Geschlecht, Sprache, Religion, politischer oder sonstiger
Überzeugung, nationaler oder sozialer Herkunft, Vermögen, Geburt oder sonstigem Stand. Jeder hat das Recht auf Leben, Freiheit
und Sicherheit der Person. Niemand darf in Sklaverei oder Leibeigenschaft gehalten werden. `,
  fr: `Tous les êtres humains naissent libres et égaux en dignité et en droits. Ils sont doués de raison et de conscience et
doivent agir les uns envers les autres dans un esprit de fraternité. Chacun peut se prévaloir de tous les droits et de toutes
les libertés proclamés dans la présente Déclaration, sans distinction aucune, notamment de race, de couleur, de sexe, de langue,
de religion, d’opinion politique ou de toute autre opinion, d’origine nationale ou sociale, de fortune, de naissance ou de toute
autre situation. Tout individu a droit à la vie, à la liberté et à la sûreté de sa personne. `,
  ja: `すべての人間は、生まれながらにして自由であり、かつ、尊厳と権利とについて平等である。人間は、理性と良心とを授けられており、
互いに同胞の精神をもって行動しなければならない。`.repeat(8),
}
const long = (language: keyof typeof TEXTS) => TEXTS[language].repeat(3)

it.each([
  ['en', 'de'],
  ['en', 'ja'],
  ['de', 'fr-CA'],
  ['fr', 'en-GB'],
  ['ja', 'en'],
  ['fr', 'it'],
] as const)('a text in %s is not in %s', (own, wanted) => expect(otherLanguage(long(own), wanted)).toBe(own))

it.each([
  ['en', 'en-GB'],
  ['de', 'de-AT'],
  ['fr', 'fr'],
  ['ja', 'ja'],
] as const)('a text in %s is in %s', (own, wanted) =>
  expect(otherLanguage(long(own), wanted)).toBeUndefined(),
)

it('short texts and unknown languages are not judged', () => {
  expect(otherLanguage(TEXTS.en, 'de')).toBeUndefined()
  expect(otherLanguage(long('en'), 'gd')).toBeUndefined()
})

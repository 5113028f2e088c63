/** The worker thread of `preview-image.ts`. Titles are drawn with the fonts that ship; what these lack is left out. */
import { createRequire } from 'node:module'
import { openSync, type Font, type Glyph } from 'fontkit'
import sharp from 'sharp'
import { drawPreview, type Outlined, type PreviewText } from '../../core/syndication/preview-image.ts'
import { answerWith } from './answering.ts'
import type { PreviewAnswer } from './preview-image.ts'

const { resolve } = createRequire(import.meta.url)

function opened(file: string): Font {
  const font = openSync(resolve(file))
  if (!('layout' in font)) throw new Error(`${file} is a collection of fonts.`)
  return font
}
const FONTS = [
  '@fontsource/overpass/files/overpass-latin-800-normal.woff',
  '@fontsource/overpass/files/overpass-latin-ext-800-normal.woff',
  '@fontsource/kosugi/files/kosugi-japanese-400-normal.woff',
].map(opened)

const fontOf = (character: string): Font | undefined =>
  FONTS.find((one) => one.hasGlyphForCodePoint(character.codePointAt(0) ?? 0))

/** Splits a text where the font changes. */
function runsOf(text: string): { font: Font; text: string }[] {
  const runs: { font: Font; text: string }[] = []
  for (const character of text.normalize('NFC').replace(/\s+/g, ' ')) {
    const font = fontOf(character)
    if (!font) continue
    const last = runs.at(-1)
    if (last?.font === font) last.text += character
    else runs.push({ font, text: character })
  }
  return runs
}

/** Outlines of glyphs, which are drawn again and again while lines are measured. */
const paths = new WeakMap<Glyph, string>()

function pathOf(glyph: Glyph): string {
  let path = paths.get(glyph)
  if (path === undefined) paths.set(glyph, (path = glyph.path.toSVG()))
  return path
}

function outlineOf(text: string, size: number): Outlined {
  let width = 0
  let markup = ''
  for (const { font, text: run } of runsOf(text)) {
    const scale = size / font.unitsPerEm
    const { glyphs, positions } = font.layout(run)
    for (const [index, glyph] of glyphs.entries()) {
      const { xAdvance = 0, xOffset = 0, yOffset = 0 } = positions[index] ?? {}
      const path = pathOf(glyph)
      if (path !== '')
        markup += `<path transform="translate(${(width + xOffset * scale).toFixed(2)} ${(-yOffset * scale).toFixed(2)}) scale(${scale.toFixed(5)} ${(-scale).toFixed(5)})" d="${path}"/>`
      width += xAdvance * scale
    }
  }
  return { width, markup }
}

answerWith(async (text: PreviewText): Promise<PreviewAnswer> => {
  const svg = drawPreview(text, outlineOf)
  return new Uint8Array(await sharp(Buffer.from(svg)).png({ palette: true, colours: 64 }).toBuffer())
})

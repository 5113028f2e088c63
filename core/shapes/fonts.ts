/** Fonts that ship with the product. Every definition can use them under /fonts/NAME. */

/** File name → its file in an npm package. */
export const FONTS: Readonly<Record<string, string>> = {
  'kosugi.woff2': '@fontsource/kosugi/files/kosugi-japanese-400-normal.woff2',
  'literata.woff2': '@fontsource-variable/literata/files/literata-latin-wght-normal.woff2',
  'literata-ext.woff2': '@fontsource-variable/literata/files/literata-latin-ext-wght-normal.woff2',
  'literata-italic.woff2': '@fontsource-variable/literata/files/literata-latin-wght-italic.woff2',
  'overpass.woff2': '@fontsource-variable/overpass/files/overpass-latin-wght-normal.woff2',
  'overpass-ext.woff2': '@fontsource-variable/overpass/files/overpass-latin-ext-wght-normal.woff2',
  'overpass-mono.woff2': '@fontsource-variable/overpass-mono/files/overpass-mono-latin-wght-normal.woff2',
}

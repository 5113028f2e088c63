/** Small drawings of repaired things: each motif draws into a 592 × 448 field with the colours it is given. */

export interface Palette {
  ground: string
  line: string
  accent: string
  soft: string
}

/** Ground, line, accent and a soft fill for each category. */
const PALETTES: Readonly<Record<string, Palette>> = {
  bicycles: { ground: '#d7dccb', line: '#4c5a48', accent: '#a8401f', soft: '#c3cbb3' },
  electrical: { ground: '#e8d3b8', line: '#5b4630', accent: '#b5541f', soft: '#dcc09d' },
  textiles: { ground: '#cfd8df', line: '#2f4a63', accent: '#a0503c', soft: '#b7c6d1' },
  woodwork: { ground: '#e3d5c0', line: '#6b4a2b', accent: '#3f6152', soft: '#d3bf9f' },
  'clocks-and-toys': { ground: '#ddd2dc', line: '#54405a', accent: '#b0702a', soft: '#cbbccb' },
  'open-days': { ground: '#f0dfb4', line: '#4f4a38', accent: '#2f5c86', soft: '#e3cc8e' },
}

type Motif = (p: Palette, variant: number) => string

const stroke = (colour: string, width = 20) =>
  `fill="none" stroke="${colour}" stroke-width="${width}" stroke-linecap="round" stroke-linejoin="round"`
const circle = (x: number, y: number, r: number, style: string) =>
  `<circle cx="${x}" cy="${y}" r="${r}" ${style}/>`
const path = (d: string, style: string) => `<path d="${d}" ${style}/>`
const fill = (colour: string) => `fill="${colour}"`
const round = (value: number) => Math.round(value * 10) / 10

function spokes(x: number, y: number, r: number, count: number, style: string): string {
  return Array.from({ length: count }, (_, index) => {
    const angle = (index * 2 * Math.PI) / count
    return path(`M${x} ${y}L${round(x + r * Math.cos(angle))} ${round(y + r * Math.sin(angle))}`, style)
  }).join('')
}

const MOTIFS: Readonly<Record<string, Motif>> = {
  wheels: (p, v) =>
    circle(208, 240, 118, stroke(p.line, 22)) +
    circle(410, 240, 86 + v * 4, stroke(p.accent, 22)) +
    circle(208, 240, 14, fill(p.line)) +
    circle(410, 240, 12, fill(p.accent)),
  wheel: (p, v) =>
    circle(296, 224, 158, stroke(p.line, 20)) +
    spokes(296, 224, 150, 10 + v * 2, stroke(p.line, 5)) +
    circle(296, 224, 24, fill(p.accent)),
  chain: (p, v) =>
    [0, 1, 2, 3, 4]
      .map((i) =>
        circle(96 + i * 100, 224 + (i % 2 ? -22 : 22), 36, stroke(i === v % 5 ? p.accent : p.line, 18)),
      )
      .join('') + path('M96 246L196 202L296 246L396 202L496 246', stroke(p.soft, 16)),
  brake: (p) =>
    path('M150 96V300Q150 360 210 360H250', stroke(p.line, 22)) +
    path('M442 96V300Q442 360 382 360H342', stroke(p.line, 22)) +
    path('M196 250H250M396 250H342', stroke(p.accent, 34)),
  puncture: (p) =>
    circle(296, 224, 150, stroke(p.line, 46)) +
    `<rect x="352" y="72" width="92" height="64" rx="18" transform="rotate(42 398 104)" ${fill(p.accent)}/>`,
  saddle: (p) =>
    path('M130 190Q296 130 470 168Q440 236 330 232Q250 226 214 268Q150 262 130 190Z', fill(p.line)) +
    path('M300 240V380M240 380H360', stroke(p.accent, 22)),
  kettle: (p, v) =>
    path('M178 360L206 170H386L414 360Z', fill(p.soft)) +
    path('M178 360L206 170H386L414 360Z', stroke(p.line, 20)) +
    path('M414 210Q486 214 476 300L440 330', stroke(p.line, 18)) +
    path(`M270 130Q${280 + v * 4} 100 262 72M326 130Q336 100 318 72`, stroke(p.accent, 14)),
  toaster: (p) =>
    `<rect x="130" y="170" width="332" height="196" rx="36" ${fill(p.soft)}/><rect x="130" y="170" width="332" height="196" rx="36" ${stroke(p.line, 20)}/>` +
    path('M200 170V104H300V170M320 170V126H400V170', stroke(p.accent, 18)) +
    path('M462 236H506V280', stroke(p.line, 18)),
  lamp: (p) =>
    path('M200 200L250 80H342L392 200Z', fill(p.accent)) +
    path('M296 200V350M206 372H386', stroke(p.line, 22)) +
    path('M340 210V264', stroke(p.line, 8)) +
    circle(340, 274, 10, fill(p.line)),
  plug: (p) =>
    `<rect x="206" y="166" width="180" height="150" rx="34" ${fill(p.line)}/>` +
    path('M252 166V96M340 166V96', stroke(p.accent, 22)) +
    path('M296 316V352Q296 392 350 392H520', stroke(p.line, 18)),
  meter: (p, v) =>
    `<rect x="150" y="84" width="292" height="290" rx="28" ${fill(p.soft)}/><rect x="150" y="84" width="292" height="290" rx="28" ${stroke(p.line, 18)}/>` +
    path('M206 230A96 96 0 0 1 386 230', stroke(p.line, 12)) +
    path(`M296 246L${330 + v * 10} 172`, stroke(p.accent, 14)) +
    circle(232, 318, 16, fill(p.line)) +
    circle(296, 318, 16, fill(p.line)) +
    circle(360, 318, 16, fill(p.accent)),
  bulb: (p) =>
    path('M296 84A110 110 0 0 1 356 284V318H236V284A110 110 0 0 1 296 84Z', fill(p.soft)) +
    path('M296 84A110 110 0 0 1 356 284V318H236V284A110 110 0 0 1 296 84Z', stroke(p.line, 18)) +
    path('M246 352H346M262 384H330', stroke(p.accent, 18)) +
    path('M270 262L282 206L296 232L310 206L322 262', stroke(p.line, 9)),
  radio: (p) =>
    `<rect x="104" y="150" width="384" height="220" rx="22" ${stroke(p.line, 20)}/>` +
    circle(206, 260, 66, stroke(p.line, 16)) +
    circle(206, 260, 24, fill(p.line)) +
    path('M318 210H436', stroke(p.accent, 12)) +
    circle(340, 306, 24, fill(p.accent)) +
    circle(416, 306, 24, fill(p.line)) +
    path('M400 150L480 62', stroke(p.line, 10)),
  mixer: (p) =>
    path('M120 150H400Q470 150 470 210Q470 250 420 250H120Z', fill(p.line)) +
    path('M180 250V300M340 250V300', stroke(p.line, 14)) +
    path('M148 300H212V360Q180 396 148 360ZM308 300H372V360Q340 396 308 360Z', stroke(p.accent, 14)),
  wave: (p, v) =>
    [0, 1, 2]
      .map((row) =>
        path(
          `M70 ${150 + row * 76}q56 ${-96 + v * 6} 113 0t113 0t113 0t113 0`,
          stroke(row === 1 ? p.accent : p.line, 18),
        ),
      )
      .join(''),
  darn: (p) =>
    [0, 1, 2, 3, 4].map((i) => path(`M176 ${124 + i * 50}H416`, stroke(p.line, 13))).join('') +
    [0, 1, 2, 3, 4]
      .map((i) =>
        path(
          `M${196 + i * 50} 96V352`,
          `fill="none" stroke="${p.accent}" stroke-width="13" stroke-dasharray="50 50" stroke-dashoffset="${i % 2 ? 50 : 0}"`,
        ),
      )
      .join(''),
  zip: (p) =>
    path('M262 60V250M330 60V250', stroke(p.line, 16)) +
    [0, 1, 2, 3, 4, 5]
      .map((i) => path(`M270 ${80 + i * 30}H${296 + (i % 2 ? 12 : -2)}`, stroke(p.accent, 10)))
      .join('') +
    path('M240 250H352L330 320H262Z', fill(p.line)) +
    path('M296 320V392', stroke(p.accent, 18)),
  button: (p, v) =>
    circle(296, 224, 150, fill(p.soft)) +
    circle(296, 224, 150, stroke(p.line, 20)) +
    circle(296, 224, 112, stroke(p.line, 6)) +
    [
      [-36, -36],
      [36, -36],
      [-36, 36],
      [36, 36],
    ]
      .map(([x = 0, y = 0]) => circle(296 + x, 224 + y, 17, fill(p.line)))
      .join('') +
    (v % 2
      ? path('M260 188L332 260M332 188L260 260', stroke(p.accent, 14))
      : path('M260 188V260M332 188V260', stroke(p.accent, 14))),
  needle: (p) =>
    path('M120 340L440 96', stroke(p.line, 14)) +
    `<ellipse cx="424" cy="108" rx="34" ry="12" transform="rotate(-37 424 108)" ${stroke(p.line, 10)}/>` +
    path('M424 108Q520 130 470 220T380 330Q300 400 210 330', stroke(p.accent, 9)),
  jumper: (p) =>
    path('M216 92Q296 150 376 92L476 160L440 250L396 224V372H196V224L152 250L116 160Z', fill(p.soft)) +
    path('M216 92Q296 150 376 92L476 160L440 250L396 224V372H196V224L152 250L116 160Z', stroke(p.line, 16)) +
    `<rect x="300" y="250" width="60" height="60" ${fill(p.accent)}/>`,
  chair: (p, v) =>
    path('M200 70V384M392 230V384M200 230H392', stroke(p.line, 22)) +
    path(`M200 ${96 + v * 4}H330Q392 96 392 230`, stroke(p.line, 16)) +
    path('M206 306H386', stroke(p.accent, 16)),
  plane: (p) =>
    path('M90 320H500V266Q450 250 400 266L340 230H220L150 266H90Z', fill(p.soft)) +
    path('M90 320H500V266Q450 250 400 266L340 230H220L150 266H90Z', stroke(p.line, 16)) +
    path('M300 320L250 160', stroke(p.accent, 20)) +
    path('M176 262Q150 190 206 180', stroke(p.line, 18)),
  joint: (p) =>
    path('M80 200H250L230 250H290L270 200H290', fill(p.line)) +
    `<rect x="70" y="150" width="190" height="150" ${fill(p.soft)}/><rect x="330" y="150" width="190" height="150" ${fill(p.soft)}/>` +
    path('M260 150V182L310 166V218L260 202V246L310 230V282L260 266V300', stroke(p.line, 14)) +
    path('M340 150V182L390 166M340 300V266L390 282', stroke(p.accent, 14)),
  clamp: (p) =>
    path('M140 90V360H220M140 90H452V180', stroke(p.line, 26)) +
    path('M452 180V330M400 330H504', stroke(p.accent, 20)) +
    `<rect x="220" y="250" width="170" height="90" ${fill(p.soft)}/>`,
  spoon: (p, v) =>
    `<ellipse cx="${210 - v * 4}" cy="150" rx="66" ry="86" ${fill(p.line)}/>` +
    path('M232 226L330 392', stroke(p.line, 24)) +
    path('M400 80V392M372 80V170Q372 200 400 200Q428 200 428 170V80', stroke(p.accent, 16)),
  knife: (p) =>
    path('M90 250L380 130Q420 200 350 240L120 290Z', fill(p.soft)) +
    path('M90 250L380 130Q420 200 350 240L120 290Z', stroke(p.line, 14)) +
    path('M386 158L500 110', stroke(p.accent, 34)) +
    path('M110 370H480', stroke(p.line, 24)),
  clock: (p, v) =>
    circle(296, 224, 156, stroke(p.line, 22)) +
    path(`M296 224V128M296 224L${360 - v * 8} ${262 + v * 4}`, stroke(p.accent, 16)) +
    [0, 1, 2, 3]
      .map((i) => {
        const a = (i * Math.PI) / 2
        return path(
          `M${round(296 + 126 * Math.cos(a))} ${round(224 + 126 * Math.sin(a))}L${round(296 + 140 * Math.cos(a))} ${round(224 + 140 * Math.sin(a))}`,
          stroke(p.line, 10),
        )
      })
      .join(''),
  gears: (p) =>
    circle(220, 200, 84, stroke(p.line, 24)) +
    spokes(220, 200, 118, 10, stroke(p.line, 18)) +
    circle(220, 200, 40, fill(p.ground)) +
    circle(400, 296, 52, stroke(p.accent, 20)) +
    spokes(400, 296, 80, 8, stroke(p.accent, 15)) +
    circle(400, 296, 22, fill(p.ground)),
  bear: (p) =>
    circle(218, 128, 46, fill(p.line)) +
    circle(374, 128, 46, fill(p.line)) +
    circle(296, 232, 136, fill(p.soft)) +
    circle(296, 232, 136, stroke(p.line, 18)) +
    circle(250, 210, 13, fill(p.line)) +
    path('M326 198L354 226M354 198L326 226', stroke(p.accent, 10)) +
    path('M262 290Q296 316 330 290', stroke(p.line, 12)),
  train: (p) =>
    `<rect x="116" y="180" width="220" height="130" rx="14" ${fill(p.soft)}/><rect x="336" y="110" width="130" height="200" rx="14" ${fill(p.line)}/>` +
    path('M160 180V112H206V180', stroke(p.line, 18)) +
    circle(180, 330, 42, stroke(p.accent, 18)) +
    circle(290, 330, 42, stroke(p.accent, 18)) +
    circle(404, 330, 42, stroke(p.accent, 18)),
  door: (p) =>
    path('M190 390V76H402V390', stroke(p.line, 22)) +
    path('M190 76L330 120V390H190Z', fill(p.soft)) +
    circle(300, 250, 13, fill(p.accent)) +
    path('M100 392H492', stroke(p.line, 16)),
  cup: (p, v) =>
    path('M160 180H400L376 350Q280 396 184 350Z', fill(p.soft)) +
    path('M160 180H400L376 350Q280 396 184 350Z', stroke(p.line, 18)) +
    path('M396 214Q474 214 450 282Q436 316 386 312', stroke(p.line, 16)) +
    path(`M236 136Q${252 + v * 3} 104 232 74M316 136Q332 104 312 74`, stroke(p.accent, 13)),
  book: (p) =>
    path('M296 130Q200 84 96 118V354Q200 322 296 366Q392 322 496 354V118Q392 84 296 130Z', fill(p.soft)) +
    path(
      'M296 130Q200 84 96 118V354Q200 322 296 366Q392 322 496 354V118Q392 84 296 130ZM296 130V366',
      stroke(p.line, 16),
    ) +
    path('M140 180L250 190M140 236L250 246M342 190L452 180', stroke(p.accent, 10)),
  table: (p) =>
    path('M80 200H512', stroke(p.line, 28)) +
    path('M130 214L110 384M462 214L482 384', stroke(p.line, 20)) +
    `<rect x="170" y="110" width="86" height="76" ${fill(p.accent)}/>` +
    circle(340, 146, 40, stroke(p.accent, 16)) +
    path('M420 186V92', stroke(p.line, 12)),
}

/** A whole drawing; the same name, category and variant always give the same text. */
export function drawing(motif: string, category: string, variant: number): string {
  const palette = PALETTES[category]
  const draw = MOTIFS[motif]
  if (!palette || !draw) throw new Error(`no drawing “${motif}” for “${category}”`)
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 592 448"><rect width="592" height="448" fill="${palette.ground}"/>${draw(palette, variant)}</svg>\n`
}

// Copies the font files we ship from their npm packages to assets/fonts and
// writes assets/fonts/index.json: what each family is and where its faces are.
import fs from 'node:fs'
import path from 'node:path'

const out = path.resolve('../assets/fonts')
fs.mkdirSync(out, { recursive: true })

// [package, family, kind, character words, weights]
const families = [
  ['gabarito', 'Gabarito', 'sans', ['friendly', 'round', 'sturdy'], [500, 700, 800]],
  ['figtree', 'Figtree', 'sans', ['clear', 'friendly', 'modern'], [400, 500, 600, 700]],
  ['fraunces', 'Fraunces', 'serif', ['warm', 'crafted', 'old-style'], [400, 600, 800]],
  ['inter', 'Inter', 'sans', ['neutral', 'technical', 'precise'], [400, 500, 700]],
  ['source-sans-3', 'Source Sans 3', 'sans', ['plain', 'readable', 'quiet'], [400, 600, 700]],
  ['libre-franklin', 'Libre Franklin', 'sans', ['newsy', 'strong', 'classic'], [400, 500, 700, 900]],
  ['newsreader', 'Newsreader', 'serif', ['literary', 'calm', 'fine'], [400, 500, 700]],
  ['archivo', 'Archivo', 'sans', ['tight', 'industrial', 'bold'], [400, 600, 800]],
  ['young-serif', 'Young Serif', 'serif', ['heavy', 'soft', 'characterful'], [400]],
  ['familjen-grotesk', 'Familjen Grotesk', 'sans', ['quirky', 'nordic', 'dry'], [400, 600, 700]],
  ['zilla-slab', 'Zilla Slab', 'slab', ['workshop', 'engineered', 'open'], [400, 500, 700]],
  ['karla', 'Karla', 'sans', ['small-shop', 'plain', 'compact'], [400, 500, 700]],
  ['bitter', 'Bitter', 'slab', ['sturdy', 'bookish', 'readable'], [400, 600, 800]],
  ['outfit', 'Outfit', 'sans', ['geometric', 'clean', 'bright'], [400, 600, 800]],
  ['dm-serif-display', 'DM Serif Display', 'serif', ['elegant', 'high-contrast', 'editorial'], [400]],
  ['bricolage-grotesque', 'Bricolage Grotesque', 'sans', ['characterful', 'handmade', 'lively'], [500, 700, 800]],
  ['instrument-sans', 'Instrument Sans', 'sans', ['crisp', 'modern', 'condensed'], [400, 500, 600, 700]],
  ['dm-mono', 'DM Mono', 'mono', ['measured', 'technical', 'soft'], [400, 500]],
  ['oleo-script', 'Oleo Script', 'script', ['brushed', 'bold', 'market-stall'], [400, 700]],
  ['pacifico', 'Pacifico', 'script', ['relaxed', 'round', 'hand-lettered'], [400]],
  // fallback faces for scripts and signs the others lack
  ['noto-sans', 'Noto Sans', 'fallback', [], [400, 700]],
  ['noto-sans-hebrew', 'Noto Sans Hebrew', 'fallback', [], [400, 700]],
  ['noto-sans-arabic', 'Noto Sans Arabic', 'fallback', [], [400, 700]],
  ['noto-emoji', 'Noto Emoji', 'fallback', [], [600]],
  ['noto-color-emoji', 'Noto Color Emoji', 'fallback', [], [400]],
]

// A font without some of its tables (OpenType 1.9, table directory): the colour emoji
// come a second time as drawings four times as large.
function without(font, tags) {
  const records = []
  for (let i = 0; i < font.readUInt16BE(4); i++) {
    const at = 12 + 16 * i
    const tag = font.toString('latin1', at, at + 4)
    if (!tags.includes(tag)) records.push({ tag, sum: font.readUInt32BE(at + 4), from: font.readUInt32BE(at + 8), length: font.readUInt32BE(at + 12) })
  }
  const head = Buffer.alloc(12 + 16 * records.length)
  font.copy(head, 0, 0, 4)
  const power = 2 ** Math.floor(Math.log2(records.length))
  head.writeUInt16BE(records.length, 4)
  head.writeUInt16BE(16 * power, 6)
  head.writeUInt16BE(Math.log2(power), 8)
  head.writeUInt16BE(16 * (records.length - power), 10)
  const parts = [head]
  let offset = head.length
  for (const [i, r] of records.entries()) {
    const padded = Buffer.alloc(Math.ceil(r.length / 4) * 4)
    font.copy(padded, 0, r.from, r.from + r.length)
    head.write(r.tag, 12 + 16 * i, 'latin1')
    head.writeUInt32BE(r.sum, 16 + 16 * i)
    head.writeUInt32BE(offset, 20 + 16 * i)
    head.writeUInt32BE(r.length, 24 + 16 * i)
    parts.push(padded)
    offset += padded.length
  }
  return Buffer.concat(parts)
}

const index = []
for (const [pkg, family, kind, words, weights] of families) {
  const dir = path.resolve('node_modules/@expo-google-fonts', pkg)
  const faces = []
  for (const w of weights) {
    const folder = fs.readdirSync(dir).find((d) => new RegExp(`^${w}[A-Za-z]+$`).test(d))
    if (!folder) throw new Error(`${family}: no weight ${w}`)
    const file = fs.readdirSync(path.join(dir, folder)).find((f) => f.endsWith('.ttf'))
    const name = `${pkg}-${w}.ttf`
    const font = fs.readFileSync(path.join(dir, folder, file))
    fs.writeFileSync(path.join(out, name), pkg === 'noto-color-emoji' ? without(font, ['SVG ', 'vhea', 'vmtx']) : font)
    faces.push({ weight: w, file: name })
  }
  fs.copyFileSync(path.join(dir, 'LICENSE_FONT'), path.join(out, `${pkg}-LICENSE.txt`))
  index.push({ family, kind, words, faces })
}
fs.writeFileSync(path.join(out, 'index.json'), JSON.stringify(index, null, 1) + '\n')

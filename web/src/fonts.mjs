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
]

const index = []
for (const [pkg, family, kind, words, weights] of families) {
  const dir = path.resolve('node_modules/@expo-google-fonts', pkg)
  const faces = []
  for (const w of weights) {
    const folder = fs.readdirSync(dir).find((d) => new RegExp(`^${w}[A-Za-z]+$`).test(d))
    if (!folder) throw new Error(`${family}: no weight ${w}`)
    const file = fs.readdirSync(path.join(dir, folder)).find((f) => f.endsWith('.ttf'))
    const name = `${pkg}-${w}.ttf`
    fs.copyFileSync(path.join(dir, folder, file), path.join(out, name))
    faces.push({ weight: w, file: name })
  }
  fs.copyFileSync(path.join(dir, 'LICENSE_FONT'), path.join(out, `${pkg}-LICENSE.txt`))
  index.push({ family, kind, words, faces })
}
fs.writeFileSync(path.join(out, 'index.json'), JSON.stringify(index, null, 1) + '\n')

// Writes the hyphenation patterns we ship, in the notation of TeX ("1tion"), from
// their npm package to internal/core/hyphen/patterns, a language a file.
import fs from 'node:fs'
import { createRequire } from 'node:module'
import path from 'node:path'

const require = createRequire(import.meta.url)
const out = path.resolve('../internal/core/hyphen/patterns')
fs.mkdirSync(out, { recursive: true })
const languages = { de: 'de-1996', en: 'en-gb', es: 'es', fr: 'fr', it: 'it', nl: 'nl', pl: 'pl', pt: 'pt', sv: 'sv' }

// a pattern's letters with the weight before each, zeros left out; the package does not
// count the dot a word begins with
const written = (letters, weights) => [...letters, ''].map((c, i) => (weights[letters[0] === '.' ? i - 1 : i] || '') + c).join('')

for (const [id, file] of Object.entries(languages)) {
  const [weights, trie, exceptions = {}] = require(`hyphen/patterns/${file}.js`)
  const lines = []
  const walk = (node, letters) => {
    if (typeof node === 'number') return lines.push(written(letters, weights[node]))
    if (Array.isArray(node)) {
      lines.push(written(letters, weights[node[1]]))
      node = node[0]
    }
    for (const [c, next] of Object.entries(node)) walk(next, letters + c)
  }
  walk(trie, '')
  for (const [word, at] of Object.entries(exceptions)) {
    // a whole word: a break where it says, none elsewhere
    lines.push(written(`.${word}.`, [8, ...[...word].map((_, i) => (at.includes(i + 1) ? 9 : 8))]))
  }
  fs.writeFileSync(path.join(out, `${id}.txt`), lines.sort().join('\n') + '\n')
}

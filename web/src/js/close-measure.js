// Measuring in the Close-up: what a part that is moved snaps to, how far things are from
// each other, and numbers as people type them. Nothing here knows the page.
;(() => {
  const edges = ([x, y, w, h]) => ({ x: [x, x + w / 2, x + w], y: [y, y + h / 2, y + h] })
  const overlap = (a, b, across) => {
    const i = across ? 1 : 0
    return a[i] < b[i] + b[i + 2] && b[i] < a[i] + a[i + 2]
  }

  // gaps are the room between a box and its neighbours along an axis: 0 across, 1 down.
  function gaps(box, others, axis) {
    const beside = others.filter((o) => overlap(box, o, axis === 0))
    const from = box[axis]
    const to = box[axis] + box[axis + 2]
    const before = beside.filter((o) => o[axis] + o[axis + 2] <= from + 0.5).map((o) => o[axis] + o[axis + 2])
    const after = beside.filter((o) => o[axis] >= to - 0.5).map((o) => o[axis])
    return { before: before.length ? Math.max(...before) : null, after: after.length ? Math.min(...after) : null }
  }

  // along snaps a box along one axis: to the middle and the edges of the canvas, to its
  // margins, to edges and middles of other parts, down to baselines, else to equal gaps between neighbours.
  function along(axis, box, others, canvas, reach, baselines) {
    const [x, y, w, h] = canvas.safe
    const lines = axis ? [0, canvas.h / 2, canvas.h, y, y + h] : [0, canvas.w / 2, canvas.w, x, x + w]
    for (const o of others) lines.push(...edges(o)[axis ? 'y' : 'x'])
    let best = null
    const near = (e, l) => {
      if (Math.abs(l - e) <= reach && (!best || Math.abs(l - e) < Math.abs(best.by))) best = { by: l - e, line: l }
    }
    for (const e of edges(box)[axis ? 'y' : 'x']) for (const l of lines) near(e, l)
    if (axis) for (const e of baselines.own) for (const l of baselines.others) near(e, l)
    if (best) return best
    const g = gaps(box, others, axis)
    if (g.before === null || g.after === null) return { by: 0 }
    const by = (g.before + g.after - 2 * box[axis] - box[axis + 2]) / 2
    if (Math.abs(by) > reach) return { by: 0 }
    return { by, equal: [g.before, box[axis] + by, box[axis] + box[axis + 2] + by, g.after] }
  }

  // snap is how far a box is drawn to something near, in px of the piece, and what to:
  // baselines of its own to those of others as well.
  function snap(box, others, canvas, reach, baselines = { own: [], others: [] }) {
    const across = along(0, box, others, canvas, reach, baselines)
    const down = along(1, box, others, canvas, reach, baselines)
    return { dx: across.by, dy: down.by, across, down }
  }

  // aligned are the ways boxes go to stand in line by an edge or the middle of all.
  function aligned(boxes, how) {
    const all = union(boxes)
    const at = {
      left: (b) => [all[0] - b[0], 0],
      centre: (b) => [all[0] + all[2] / 2 - b[0] - b[2] / 2, 0],
      right: (b) => [all[0] + all[2] - b[0] - b[2], 0],
      top: (b) => [0, all[1] - b[1]],
      middle: (b) => [0, all[1] + all[3] / 2 - b[1] - b[3] / 2],
      bottom: (b) => [0, all[1] + all[3] - b[1] - b[3]],
    }[how]
    return boxes.map(at)
  }

  // distributed are the ways boxes go to have equal gaps; the first and the last stay.
  function distributed(boxes, axis) {
    const order = boxes.map((_, i) => i).sort((i, j) => boxes[i][axis] - boxes[j][axis])
    const first = boxes[order[0]]
    const last = boxes[order[order.length - 1]]
    const sum = boxes.reduce((n, b) => n + b[axis + 2], 0)
    const gap = (last[axis] + last[axis + 2] - first[axis] - sum) / (boxes.length - 1)
    const ways = boxes.map(() => [0, 0])
    let at = first[axis]
    for (const i of order) {
      ways[i][axis] = at - boxes[i][axis]
      at += boxes[i][axis + 2] + gap
    }
    return ways
  }

  function union(boxes) {
    const x = Math.min(...boxes.map((b) => b[0]))
    const y = Math.min(...boxes.map((b) => b[1]))
    return [x, y, Math.max(...boxes.map((b) => b[0] + b[2])) - x, Math.max(...boxes.map((b) => b[1] + b[3])) - y]
  }

  // amount reads a number as people type it: "24", "24 px", "+12" and "-12" from what it
  // is now, "50%" of what it is now, "1/3" and "2*40" and "100-8". NaN for anything else.
  function amount(text, now) {
    const s = text.replace(/\s|px|°|em|×/g, '').replace(/,/g, '.')
    const number = '(\\d+\\.?\\d*|\\.\\d+)'
    const whole = new RegExp(`^([+-]?)${number}(%?)(?:([*/+-])${number})?$`).exec(s)
    if (!whole) return NaN
    const [, sign, first, percent, by, second] = whole
    let v = Number(first)
    if (percent) v = (v / 100) * now
    if (by === '*') v *= Number(second)
    if (by === '/') v /= Number(second)
    if (by === '+') v += Number(second)
    if (by === '-') v -= Number(second)
    if (sign) v = now + (sign === '-' ? -v : v)
    return Number.isFinite(v) ? v : NaN
  }

  // light is the relative luminance of a colour, ratio the contrast of two (WCAG 2.2)
  const light = (hex) =>
    [1, 3, 5]
      .map((i) => parseInt(hex.slice(i, i + 2), 16) / 255)
      .map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4))
      .reduce((n, c, i) => n + c * [0.2126, 0.7152, 0.0722][i], 0)
  const ratio = (a, b) => (Math.max(light(a), light(b)) + 0.05) / (Math.min(light(a), light(b)) + 0.05)

  const pull = 6 // px on the screen within which things snap

  Aspen.measure = { pull, light, ratio, snap, gaps, aligned, distributed, union, amount }
})()

import type { Outlined } from '../../api/client'

/** The lines of the groups that a line lies in, outermost first; they stay in sight while it is the first. */
export function stuckAt(outline: Outlined[], line: number): number[] {
  const out: Outlined[] = []
  let low = 0
  let high = outline.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (outline[middle].line < line) low = middle + 1
    else high = middle
  }
  // Going back from the last group that begins before the line, each that stands higher than those
  // found is one it lies in.
  for (let i = low - 1, level = Infinity; i >= 0 && level > 1; i--) {
    if (outline[i].level < level) {
      level = outline[i].level
      out.unshift(outline[i])
    }
  }
  const next = outline[low]
  // A group that begins right at the line has ended those of its own level and below.
  return out.filter(o => !next || next.line > line || o.level < next.level).map(o => o.line)
}

/**
 * The lines that stick over the first lines in sight. They cover as many lines as they are, so that
 * the first that is seen lies in all of them or begins a group of its own.
 */
export function stuckOver(outline: Outlined[], top: number): number[] {
  let covered = 0
  while (stuckAt(outline, top + covered).length > covered) covered++
  return covered === 0 ? [] : stuckAt(outline, top + covered - 1)
}

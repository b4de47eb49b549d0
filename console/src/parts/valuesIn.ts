/** NAME=VALUE pairs with semicolons between; a piece without a name belongs to the value before it. */
export function valuesIn(text: string): Record<string, string> {
  const values: Record<string, string> = {}
  let last = ''
  for (const piece of text
    .split(';')
    .map(p => p.trim())
    .filter(Boolean)) {
    const at = piece.indexOf('=')
    if (at > 0) values[(last = piece.slice(0, at).trim())] = piece.slice(at + 1).trim()
    else if (last) values[last] += '; ' + piece
  }
  return values
}

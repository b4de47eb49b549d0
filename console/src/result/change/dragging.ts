/** What a heading that is dragged carries: the text that its rows would be grouped by. */
export const dragged = 'application/x-mantilla-group'

/** The text by which a column is grouped by when its heading is dropped; none for numbers, which the menu of the column has in bands. */
export function groupOf(column: { id: string; kind: string }) {
  if (column.kind === 'date' || column.kind === 'timestamp') return `month(${column.id})`
  if (column.kind === 'text' || column.kind === 'flag') return column.id
  return undefined
}

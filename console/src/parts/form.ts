// The form in which figures and days are written for whoever is signed in.
import dayjs from 'dayjs'
import customParseFormat from 'dayjs/plugin/customParseFormat'

dayjs.extend(customParseFormat)

const marks: Record<string, { group: string; point: string }> = {
  comma: { group: ',', point: '.' },
  dot: { group: '.', point: ',' },
  space: { group: '\u00a0', point: ',' },
  apostrophe: { group: '’', point: '.' },
}

const layouts: Record<string, string> = {
  words: 'D MMM YYYY',
  dots: 'DD.MM.YYYY',
  slashes: 'DD/MM/YYYY',
  'month-first': 'MM/DD/YYYY',
  iso: 'YYYY-MM-DD',
}

let mark = marks['comma']!
let layout = layouts['words']!

/** From now on figures and days are written in this form. */
export function writeAs(form: { numbers: string; days: string }) {
  mark = marks[form.numbers] ?? mark
  layout = layouts[form.days] ?? layout
}

/** How days are written, as calendars have it. */
export const dayLayout = () => layout

/** A whole number, or one of few places: 1,234. */
export function number(n: number): string {
  return written(String(Math.round(n * 1000) / 1000))
}

/** A number as it is sent, in the person's form: 1234.5 is 1.234,5 to some. */
export function written(plain: string): string {
  if (!/^-?\d+(\.\d+)?$/.test(plain)) return plain
  const [whole = '', part] = plain.split('.')
  const grouped = whole.replace(/\B(?=(\d{3})+$)/g, mark.group).replace('-', '−')
  return part === undefined ? grouped : grouped + mark.point + part
}

/** A number as it is typed in the person's form: without marks between thousands. */
export function bare(plain: string): string {
  return /^-?\d*\.\d+$/.test(plain) ? plain.replace('.', mark.point) : plain
}

/** What somebody typed in their form, as it is sent; anything but a number stays as it is. */
export function plain(typed: string): string {
  const digits = typed
    .trim()
    .replace(/^−/, '-')
    .split(mark.group)
    .join('')
    .replace(/(?<=\d)[ \u00a0\u202f'](?=\d{3})/g, '')
  const text = mark.point === ',' ? digits.replace(',', '.') : digits
  return /^-?\d*\.?\d*$/.test(text) && grouping(typed.trim()) ? text : typed
}

// In 1.5 the mark stands where no thousands can be parted: nobody means fifteen by it.
const grouping = (typed: string) =>
  typed
    .split(mark.point)[0]!
    .split(mark.group)
    .slice(1)
    .every(part => part.length === 3)

/** A short number for an axis: 12K. */
export function short(n: number): string {
  const said = new Intl.NumberFormat('en-GB', { notation: 'compact', maximumFractionDigits: 1 }).format(n)
  return said.replace('.', mark.point)
}

/** A day sent as 2026-09-30, as it is read. */
export function day(iso: string): string {
  return dayjs(iso).format(layout)
}

/** A text with days as it is typed: with the days as they are sent by who reads days in words. */
export function bareDay(sent: string): string {
  if (layout === layouts['words']) return sent
  return sent.replace(/\b\d{4}-\d\d-\d\d\b/g, day)
}

/** A text that somebody typed, with days in their form, as it is sent. */
export function isoDay(typed: string): string {
  return typed.replace(/\b\d{1,2}[./]\d{1,2}[./]\d{4}\b/g, text => dayTyped(text) ?? text)
}

/** The day that somebody typed, in their form or one that cannot be mistaken. */
export function dayTyped(typed: string): string | null {
  const own = layout === 'MM/DD/YYYY' ? ['M/D/YYYY'] : ['D/M/YYYY']
  const at = dayjs(typed.trim(), ['YYYY-MM-DD', 'D MMM YYYY', 'D MMMM YYYY', 'D.M.YYYY', ...own], true)
  return at.isValid() ? at.format('YYYY-MM-DD') : null
}

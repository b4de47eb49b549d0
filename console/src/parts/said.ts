// How times, lengths and sizes are said.
let zone = 'UTC'

/**
 * All moments are said in one zone, that of the person or else of the organisation, wherever the
 * browser stands.
 */
export function sayIn(of: string) {
  zone = of
}

/** The day of a moment: 15 Oct 2026. */
export function dayAt(at: string): string {
  return moment(at).split(' ').slice(0, 3).join(' ')
}

/** A moment as people read it, with its zone: 15 Oct 2026 14:00 CEST. */
export function moment(at: string | undefined): string {
  if (!at) return ''
  const parts = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
    timeZoneName: 'short',
  }).formatToParts(new Date(at))
  const part = (type: Intl.DateTimeFormatPartTypes) => parts.find(p => p.type === type)?.value ?? ''
  return `${part('day')} ${part('month').slice(0, 3)} ${part('year')} ${part('hour')}:${part('minute')} ${part('timeZoneName')}`
}

/** A day, counted from 1970, as people read it. */
export function dayOf(number: number): string {
  return new Date(number * 86_400_000).toLocaleDateString('en-GB', {
    timeZone: 'UTC',
    day: 'numeric',
    month: 'short',
    year: '2-digit',
  })
}

export function length(seconds: number): string {
  if (seconds < 1) return `${Math.round(seconds * 1000)} ms`
  if (seconds < 60) return `${seconds.toFixed(1)} s`
  return `${Math.floor(seconds / 60)} min ${Math.round(seconds % 60)} s`
}

export function count(n: number, one: string, many: string): string {
  return `${n.toLocaleString('en-GB')} ${n === 1 ? one : many}`
}

export function size(bytes: number): string {
  if (bytes < 1_000) return `${bytes} B`
  if (bytes < 1_000_000) return `${(bytes / 1_000).toFixed(0)} kB`
  if (bytes < 1_000_000_000) return `${(bytes / 1_000_000).toFixed(1)} MB`
  return `${(bytes / 1_000_000_000).toFixed(1)} GB`
}

/** How long ago something was, in its largest unit. */
export function age(seconds: number): string {
  if (seconds < 90) return 'less than two minutes'
  if (seconds < 5400) return count(Math.round(seconds / 60), 'minute', 'minutes')
  if (seconds < 129_600) return count(Math.round(seconds / 3600), 'hour', 'hours')
  return count(Math.round(seconds / 86_400), 'day', 'days')
}

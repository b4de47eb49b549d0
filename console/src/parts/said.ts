// How times, lengths and sizes are said.
import { day, number } from './form'

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
  return day(partsOf(at).day)
}

/** A moment as people read it, with its zone: 15 Oct 2026 14:00 CEST. */
export function moment(at: string | undefined): string {
  if (!at) return ''
  const parts = partsOf(at)
  return `${day(parts.day)} ${parts.time} ${parts.zone}`
}

function partsOf(at: string) {
  const parts = new Intl.DateTimeFormat('en-GB', {
    timeZone: zone,
    day: '2-digit',
    month: '2-digit',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
    timeZoneName: 'short',
  }).formatToParts(new Date(at))
  const part = (type: Intl.DateTimeFormatPartTypes) => parts.find(p => p.type === type)?.value ?? ''
  return {
    day: `${part('year')}-${part('month')}-${part('day')}`,
    time: `${part('hour')}:${part('minute')}`,
    zone: part('timeZoneName'),
  }
}

/** A day, counted from 1970, as people read it. */
export function dayOf(since: number): string {
  return day(new Date(since * 86_400_000).toISOString().slice(0, 10))
}

export function length(seconds: number): string {
  if (seconds < 1) return `${Math.round(seconds * 1000)} ms`
  if (seconds < 60) return `${seconds.toFixed(1)} s`
  return `${Math.floor(seconds / 60)} min ${Math.round(seconds % 60)} s`
}

export function count(n: number, one: string, many: string): string {
  return `${number(n)} ${n === 1 ? one : many}`
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

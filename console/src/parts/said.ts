// How times, lengths and sizes are said.
import dayjs from 'dayjs'

export function moment(at: string | undefined): string {
  return at ? dayjs(at).format('D MMM YYYY HH:mm') : ''
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
  return `${(bytes / 1_000_000).toFixed(1)} MB`
}

/** How long ago something was, in its largest unit. */
export function age(seconds: number): string {
  if (seconds < 90) return 'less than two minutes'
  if (seconds < 5400) return count(Math.round(seconds / 60), 'minute', 'minutes')
  if (seconds < 129_600) return count(Math.round(seconds / 3600), 'hour', 'hours')
  return count(Math.round(seconds / 86_400), 'day', 'days')
}

// Plain choices that write a rule of RFC 5545, and the choice that a rule is.
import type { TimetableOf } from '../api/client'

export type Choice = {
  every: 'day' | 'week' | 'monthday' | 'weekday' | 'last' | 'after' | 'quarter' | 'year' | 'rule'
  days: string[]
  day: number
  nth: string
  month: string
  rule: string
}

/** The days from Monday to Friday, as a part of a rule. */
export const working = 'BYDAY=MO,TU,WE,TH,FR'
const fresh: Omit<Choice, 'every' | 'rule'> = { days: ['MO'], day: 1, nth: '1', month: '1' }

/** The choice that a rule is; a rule that is none of the plain ones stands as it is. */
export function choiceOf(rule: string): Choice {
  const match = (pattern: string) => new RegExp(`^${pattern}$`).exec(rule)
  const is = (every: Choice['every'], part: Partial<Choice> = {}): Choice => ({
    ...fresh,
    ...part,
    every,
    rule,
  })
  let m
  if (match('FREQ=DAILY')) return is('day')
  if ((m = match('FREQ=WEEKLY;BYDAY=([A-Z,]+)'))) return is('week', { days: m[1].split(',') })
  if (match(`FREQ=MONTHLY;${working};BYSETPOS=-1`)) return is('last')
  if ((m = match(`FREQ=MONTHLY;${working};BYSETPOS=(\\d+)`))) return is('after', { day: Number(m[1]) })
  if ((m = match(`FREQ=MONTHLY;${working};BYMONTH=1,4,7,10;BYSETPOS=(\\d+)`)))
    return is('quarter', { day: Number(m[1]) })
  if ((m = match('FREQ=MONTHLY;BYMONTHDAY=(-?\\d+)'))) return is('monthday', { day: Number(m[1]) })
  if ((m = match('FREQ=MONTHLY;BYDAY=(-?\\d)([A-Z]{2})'))) return is('weekday', { nth: m[1], days: [m[2]] })
  if ((m = match('FREQ=YEARLY;BYMONTH=(\\d+);BYMONTHDAY=(\\d+)')))
    return is('year', { month: m[1], day: Number(m[2]) })
  return is('rule')
}

/** The rule that a choice writes. */
export function ruleOf(c: Choice): Pick<TimetableOf, 'rule'> {
  switch (c.every) {
    case 'day':
      return { rule: 'FREQ=DAILY' }
    case 'week':
      return { rule: `FREQ=WEEKLY;BYDAY=${c.days.join(',') || 'MO'}` }
    case 'monthday':
      return { rule: `FREQ=MONTHLY;BYMONTHDAY=${c.day}` }
    case 'weekday':
      return { rule: `FREQ=MONTHLY;BYDAY=${c.nth}${c.days[0] ?? 'MO'}` }
    case 'last':
      return { rule: `FREQ=MONTHLY;${working};BYSETPOS=-1` }
    case 'after':
      return { rule: `FREQ=MONTHLY;${working};BYSETPOS=${Math.max(c.day, 1)}` }
    case 'quarter':
      return { rule: `FREQ=MONTHLY;${working};BYMONTH=1,4,7,10;BYSETPOS=${Math.max(c.day, 1)}` }
    case 'year':
      return { rule: `FREQ=YEARLY;BYMONTH=${c.month};BYMONTHDAY=${Math.max(c.day, 1)}` }
    case 'rule':
      return { rule: c.rule.trim() + ' ' } // the space tells it from the plain choice
  }
}

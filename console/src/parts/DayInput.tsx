import { DateInput, type DateInputProps } from '@mantine/dates'
import dayjs from 'dayjs'
import customParseFormat from 'dayjs/plugin/customParseFormat'

dayjs.extend(customParseFormat)

// How a day is typed, beside the way in which it is shown.
const forms = ['YYYY-MM-DD', 'D MMM YYYY', 'D MMMM YYYY', 'D.M.YYYY', 'D/M/YYYY']

type Props = Omit<DateInputProps, 'value' | 'onChange' | 'valueFormat' | 'dateParser'> & {
  /** The day as 2026-10-15; undefined for none. */
  value: string | undefined
  onChange: (day: string | undefined) => void
}

/** A day, typed or picked, and shown as every day is in the console. */
export function DayInput({ value, onChange, ...rest }: Props) {
  return (
    <DateInput
      placeholder="31 Dec 2026"
      valueFormat="D MMM YYYY"
      dateParser={text => {
        const day = dayjs(text.trim(), forms, true)
        return day.isValid() ? day.format('YYYY-MM-DD') : null
      }}
      value={value ?? null}
      onChange={day => onChange(day ?? undefined)}
      clearable
      {...rest}
    />
  )
}

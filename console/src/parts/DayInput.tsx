import { DateInput, type DateInputProps } from '@mantine/dates'
import { day as written, dayLayout, dayTyped } from './form'
import { useService } from '../api/useService'

type Props = Omit<DateInputProps, 'value' | 'onChange' | 'valueFormat' | 'dateParser'> & {
  /** The day as 2026-10-15; undefined for none. */
  value: string | undefined
  onChange: (day: string | undefined) => void
}

/** A day, typed or picked, and shown as every day is in the console. */
export function DayInput({ value, onChange, ...rest }: Props) {
  const service = useService()
  return (
    <DateInput
      defaultDate={value ?? service.data?.today}
      placeholder={written('2026-12-31')}
      valueFormat={dayLayout()}
      dateParser={dayTyped}
      value={value ?? null}
      onChange={day => onChange(day ?? undefined)}
      clearable
      {...rest}
    />
  )
}

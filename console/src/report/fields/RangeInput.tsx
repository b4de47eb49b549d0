import { Button, Popover, TextInput } from '@mantine/core'
import { DatePicker, type DatesRangeValue } from '@mantine/dates'
import { useDisclosure } from '@mantine/hooks'
import { useState } from 'react'
import { bareDay, isoDay } from '../../parts/form'
import { useTyped } from '../../parts/useTyped'
import { moveFocus } from '../../parts/moveFocus'
import classes from './RangeInput.module.css'
import { calendarLabels } from './calendar'
import { useService } from '../../api/useService'

type Props = {
  id: string
  name: string
  label: string
  value: string
  time: boolean
  wrong: boolean
  ties: object
  onChange: (value: string) => void
}

/**
 * One range: typed, picked day by day with hours where there are any, or one of the named ranges, each
 * shown with the days it means now.
 */
export function RangeInput({ id, name, label, value, time, wrong, ties, onChange }: Props) {
  const [opened, { close, open, toggle }] = useDisclosure(false)
  const [picked, setPicked] = useState<DatesRangeValue<string>>([null, null])
  const typing = useTyped(value, onChange, bareDay, isoDay)
  const [hours, setHours] = useState(['', ''])
  const service = useService()
  const choose = (text: string) => {
    onChange(text)
    close()
  }
  const pick = (days: DatesRangeValue<string>) => {
    setPicked(days)
    if (days[0] && days[1]) choose(written(days[0], days[1], hours))
  }
  return (
    <Popover
      withRoles={false}
      id={id}
      opened={opened}
      onDismiss={close}
      position="bottom-start"
      trapFocus
      shadow="md"
      returnFocus
    >
      <Popover.Target>
        <TextInput
          {...ties}
          id={id}
          name={name}
          aria-label={label}
          value={typing.text}
          error={wrong}
          maw="26rem"
          autoComplete="off"
          onChange={e => typing.type(e.currentTarget.value)}
          onKeyDown={e => e.key === 'ArrowDown' && (e.preventDefault(), open())}
          rightSection={
            <Button
              size="compact-xs"
              variant="subtle"
              tabIndex={-1}
              aria-label={`Pick ${label}`}
              aria-haspopup="dialog"
              aria-expanded={opened}
              onClick={toggle}
            >
              ▾
            </Button>
          }
        />
      </Popover.Target>
      <Popover.Dropdown
        role="dialog"
        aria-label={`Pick ${label}`}
        className={classes.dropdown}
        onKeyDown={e => e.key === 'Escape' && close()}
      >
        <div
          className={classes.named}
          role="group"
          aria-label="Named ranges"
          onKeyDown={e => moveFocus(e, 'button')}
        >
          {service.data?.presets.map(p => (
            <button
              key={p.name}
              type="button"
              className={classes.preset}
              aria-current={p.name === value || undefined}
              data-autofocus={p.name === value || undefined}
              onClick={() => choose(p.name)}
            >
              <span>{p.name}</span>
              <span className={classes.days}>{p.says}</span>
            </button>
          ))}
          <button type="button" className={classes.preset} onClick={() => choose('since last run')}>
            <span>since last run</span>
            <span className={classes.days}>from when it was last run</span>
          </button>
        </div>
        <div>
          <DatePicker
            {...calendarLabels}
            type="range"
            allowSingleDateInRange
            size="sm"
            value={picked}
            onChange={pick}
            defaultDate={service.data?.today}
          />
          {time && (
            <div className={classes.hours}>
              {['from', 'to'].map((end, i) => (
                <TextInput
                  key={end}
                  size="xs"
                  w="6rem"
                  label={`Time ${end}`}
                  placeholder={i ? '24:00' : '00:00'}
                  value={hours[i]}
                  onChange={e =>
                    setHours(i ? [hours[0], e.currentTarget.value] : [e.currentTarget.value, hours[1]])
                  }
                />
              ))}
            </div>
          )}
        </div>
      </Popover.Dropdown>
    </Popover>
  )
}

function written(from: string, to: string, [a, b]: string[]) {
  return `${from}${a ? ' ' + a : ''}/${to}${b ? ' ' + b : ''}`
}

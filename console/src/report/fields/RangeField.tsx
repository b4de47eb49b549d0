import { Button, Popover, TextInput } from '@mantine/core'
import { DatePicker, type DatesRangeValue } from '@mantine/dates'
import { useDisclosure } from '@mantine/hooks'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../../api/client'
import { moveFocus } from '../../parts/moveFocus'
import type { FieldProps } from './Field'
import { FieldFrame } from './FieldFrame'
import classes from './RangeField.module.css'

/** A range of days: typed, picked day by day, or one of the named ranges, each shown with the days it means now. */
export function RangeField(props: FieldProps) {
  const { parameter, value, onChange, fault, says } = props
  const [open, { close, toggle }] = useDisclosure(false)
  const [picked, setPicked] = useState<DatesRangeValue<string>>([null, null])
  const service = useQuery({ queryKey: ['service'], queryFn: () => answer(api.GET('/service')) })
  const id = `field-${parameter.id}` // the popover gives it to its target
  const choose = (text: string) => {
    onChange(text)
    close()
  }
  const pick = (days: DatesRangeValue<string>) => {
    setPicked(days)
    if (days[0] && days[1]) choose(`${days[0]}/${days[1]}`)
  }
  return (
    <FieldFrame {...props} id={id} hint={says && <span data-resolved={parameter.id}>{says}{parameter.longest && ` (at most ${parameter.longest})`}</span>}>
      <Popover id={id} opened={open} onDismiss={close} position="bottom-start" trapFocus shadow="md">
        <Popover.Target>
          <TextInput
            name={parameter.id} value={value} error={Boolean(fault)} maw="26rem" autoComplete="off" onChange={(e) => onChange(e.currentTarget.value)}
            rightSection={<Button size="compact-xs" variant="subtle" aria-label={`Pick ${parameter.label}`} onClick={toggle}>▾</Button>}
          />
        </Popover.Target>
        <Popover.Dropdown className={classes.dropdown}>
          <div className={classes.named} role="list" onKeyDown={(e) => moveFocus(e, 'button')}>
            {service.data?.presets.map((p) => (
              <button key={p.name} type="button" className={classes.preset} aria-current={p.name === value || undefined} onClick={() => choose(p.name)}>
                <span>{p.name}</span>
                <span className={classes.days}>{p.says}</span>
              </button>
            ))}
          </div>
          <DatePicker type="range" allowSingleDateInRange size="sm" value={picked} onChange={pick} defaultDate={service.data?.today} />
        </Popover.Dropdown>
      </Popover>
    </FieldFrame>
  )
}

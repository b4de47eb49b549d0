import { Button, Group, Popover, TextInput } from '@mantine/core'
import { DatePicker } from '@mantine/dates'
import { useDisclosure } from '@mantine/hooks'
import { bareDay, isoDay } from '../../parts/form'
import { useTyped } from '../../parts/useTyped'
import type { FieldProps } from './props'
import { FieldFrame } from './FieldFrame'
import { tiesOf } from './ties'
import { calendarLabels } from './calendar'
import { useService } from '../../api/useService'

const named = ['today', 'yesterday', 'month start', 'month end', 'year end']

/** One day, typed (2026-09-30, today - 14 days), picked or named. */
export function DateField(props: FieldProps) {
  const { parameter, value, onChange, fault, says } = props
  const [open, { open: show, close, toggle }] = useDisclosure(false)
  const id = `field-${parameter.id}` // the popover gives it to its target
  const typing = useTyped(value, onChange, bareDay, isoDay)
  const service = useService()
  const day = /^\d{4}-\d\d-\d\d$/.test(value) ? value : null
  const pick = (day: string) => {
    onChange(day)
    close()
  }
  return (
    <FieldFrame {...props} id={id} hint={says}>
      <Popover
        withRoles={false}
        id={id}
        opened={open}
        onDismiss={close}
        position="bottom-start"
        trapFocus
        returnFocus
      >
        <Popover.Target>
          <TextInput
            {...tiesOf(props)}
            id={id}
            name={parameter.id}
            value={typing.text}
            error={Boolean(fault)}
            maw="18rem"
            autoComplete="off"
            onChange={e => typing.type(e.currentTarget.value)}
            onKeyDown={e => e.key === 'ArrowDown' && (e.preventDefault(), show())}
            rightSection={
              <Button
                size="compact-xs"
                variant="subtle"
                tabIndex={-1}
                aria-label={`Pick ${parameter.label}`}
                aria-haspopup="dialog"
                aria-expanded={open}
                onClick={toggle}
              >
                ▾
              </Button>
            }
          />
        </Popover.Target>
        <Popover.Dropdown role="dialog" aria-label={`Pick ${parameter.label}`}>
          <Group gap={4} maw="17rem">
            {named.map(n => (
              <Button key={n} size="compact-xs" variant="default" onClick={() => pick(n)}>
                {n}
              </Button>
            ))}
          </Group>
          <DatePicker
            {...calendarLabels}
            mt="xs"
            size="sm"
            value={day}
            defaultDate={day ?? service.data?.today}
            onChange={day => day && pick(day)}
          />
        </Popover.Dropdown>
      </Popover>
    </FieldFrame>
  )
}

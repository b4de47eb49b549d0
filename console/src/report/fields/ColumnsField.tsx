import { ActionIcon, Button, Group } from '@mantine/core'
import { codesIn, type FieldProps } from './props'
import classes from './ColumnsField.module.css'
import { FieldFrame } from './FieldFrame'

/** Columns in order: picked below, moved and left out above. Left and right arrows move the one in focus. */
export function ColumnsField(props: FieldProps) {
  const { parameter, value, onChange } = props
  const chosen = codesIn(value)
  const label = (code: string) => parameter.options.find(o => o.code === code)?.label ?? code
  const rest = parameter.options.filter(o => !chosen.includes(o.code))
  const set = (codes: string[]) => onChange(codes.join('; '))
  const move = (code: string, by: number) => {
    const at = chosen.indexOf(code)
    const to = at + by
    if (to < 0 || to >= chosen.length) return
    const next = chosen.filter(c => c !== code)
    next.splice(to, 0, code)
    set(next)
  }
  return (
    <FieldFrame
      {...props}
      hint={
        chosen.length === 0
          ? parameter.all || (parameter.type === 'columns' ? 'all columns' : undefined)
          : 'Arrow keys move the column in focus.'
      }
    >
      <ol className={classes.chosen} aria-label={parameter.label}>
        {chosen.map((code, i) => (
          <li key={code}>
            <button
              type="button"
              className={classes.column}
              onKeyDown={e => {
                const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key]
                if (by) {
                  e.preventDefault()
                  move(code, by)
                }
                if (e.key === 'Delete' || e.key === 'Backspace') set(chosen.filter(c => c !== code))
              }}
            >
              <small>{i + 1}</small> {label(code)}
            </button>
            <ActionIcon
              size="xs"
              variant="subtle"
              tabIndex={-1}
              aria-label={`Leave out ${label(code)}`}
              onClick={() => set(chosen.filter(c => c !== code))}
            >
              ×
            </ActionIcon>
          </li>
        ))}
      </ol>
      <Group gap={4}>
        {rest.map(o => (
          <Button key={o.code} size="compact-xs" variant="default" onClick={() => set([...chosen, o.code])}>
            + {o.label}
          </Button>
        ))}
      </Group>
    </FieldFrame>
  )
}

import { ActionIcon, Button, Group, Stack } from '@mantine/core'
import type { FieldProps } from './props'
import { FieldFrame } from './FieldFrame'
import { RangeInput } from './RangeInput'
import { tiesOf } from './ties'

/** Several ranges, one a line. */
export function RangesField(props: FieldProps) {
  const { parameter, value, onChange, fault, says } = props
  const ranges = value.split(';').map(r => r.trim())
  const set = (at: number, text: string) => onChange(ranges.map((r, i) => (i === at ? text : r)).join('; '))
  return (
    <FieldFrame {...props} hint={says && <span data-resolved={parameter.id}>{says}</span>}>
      <Stack gap={6} maw="30rem">
        {ranges.map((r, i) => (
          <Group key={i} gap={6} wrap="nowrap">
            <div style={{ flex: 1 }}>
              <RangeInput
                id={`field-${parameter.id}-${i}`}
                name={i ? `${parameter.id}-${i + 1}` : parameter.id}
                label={i ? `${parameter.label} ${i + 1}` : parameter.label}
                value={r}
                time={parameter.time}
                wrong={Boolean(fault)}
                ties={tiesOf(props)}
                onChange={text => set(i, text.replaceAll(';', ''))}
              />
            </div>
            {ranges.length > 1 && (
              <ActionIcon
                variant="subtle"
                aria-label={`Leave out range ${i + 1}`}
                onClick={() => onChange(ranges.filter((_, n) => n !== i).join('; '))}
              >
                ×
              </ActionIcon>
            )}
          </Group>
        ))}
        <Button size="compact-xs" variant="subtle" w="fit-content" onClick={() => onChange(value + '; ')}>
          Add a range
        </Button>
      </Stack>
    </FieldFrame>
  )
}

import { Button, Group } from '@mantine/core'

const steps = [0.7, 0.8, 0.9, 1, 1.15, 1.3, 1.5]

type Props = { value: number; onChange: (percent: number) => void }

/** How large a sheet is drawn. */
export function Zoom({ value, onChange }: Props) {
  const at = steps.reduce((best, s, i) => (Math.abs(s - value) < Math.abs(steps[best] - value) ? i : best), 0)
  const to = (i: number) => onChange(Math.round(steps[i] * 100))
  return (
    <Group gap={0}>
      <Button
        size="compact-sm"
        variant="subtle"
        px={6}
        aria-label="Smaller"
        disabled={at === 0}
        onClick={() => to(at - 1)}
      >
        −
      </Button>
      <Button
        size="compact-sm"
        variant="subtle"
        px={2}
        aria-label={`${Math.round(value * 100)} %, back to the usual size`}
        onClick={() => onChange(100)}
        c="dimmed"
      >
        {Math.round(value * 100)} %
      </Button>
      <Button
        size="compact-sm"
        variant="subtle"
        px={6}
        aria-label="Larger"
        disabled={at === steps.length - 1}
        onClick={() => to(at + 1)}
      >
        +
      </Button>
    </Group>
  )
}

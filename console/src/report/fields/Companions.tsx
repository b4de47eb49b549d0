import { Autocomplete, Group } from '@mantine/core'

type Props = { parameter: string; chosen: string[]; onChange: (chosen: string[]) => void }

const offered = ['previous period', 'year before', '2 years before', 'last signed']

/** Up to two periods that a range is compared with: named, or written as days. */
export function Companions({ parameter, chosen, onChange }: Props) {
  const set = (at: number, text: string) => {
    const next = [...chosen]
    next[at] = text
    onChange(next.filter(c => c !== ''))
  }
  return (
    <Group gap="xs" mt={6} wrap="nowrap" maw="26rem">
      {[0, 1].slice(0, chosen.length + 1).map(at => (
        <Autocomplete
          key={at}
          size="xs"
          flex={1}
          name={`${parameter}-against-${at + 1}`}
          aria-label={at ? 'and with' : 'Compare with'}
          placeholder={at ? 'and with' : 'compare with'}
          data={offered.filter(o => o === chosen[at] || !chosen.includes(o))}
          value={chosen[at] ?? ''}
          onChange={text => set(at, text)}
          clearable
        />
      ))}
    </Group>
  )
}

import { Button } from '@mantine/core'

type Props = { shown: boolean; loading: boolean; onMore: () => void; of: string }

/** Below a long list: the older ones. */
export function More({ shown, loading, onMore, of }: Props) {
  if (!shown) return null
  return (
    <Button variant="light" size="xs" mx="1.2rem" mb="1rem" loading={loading} onClick={onMore}>
      Older {of}
    </Button>
  )
}

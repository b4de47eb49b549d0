import { Button } from '@mantine/core'
import { useRouteError } from 'react-router'
import { State } from '../parts/State'

/** Shown when the console itself failed. */
export function BrokenPage() {
  const error = useRouteError()
  return (
    <State
      alone
      title="The console failed here"
      said={error instanceof Error ? error.message : String(error)}
      next={<Button onClick={() => window.location.reload()}>Load it again</Button>}
    />
  )
}

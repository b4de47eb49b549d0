import { Button } from '@mantine/core'
import { Refusal } from '../api/client'
import { State } from './State'

type Props = { error: Error; again?: () => void }

/** What the service said when it refused, and a way to try again. */
export function Failure({ error, again }: Props) {
  const title = error instanceof Refusal ? error.problem.title : 'Something went wrong'
  return <State title={title} said={error.message} next={again && <Button variant="light" onClick={again}>Try again</Button>} />
}

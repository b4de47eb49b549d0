import { Button } from '@mantine/core'
import { Link } from 'react-router'
import { Refusal } from '../api/client'
import { State } from './State'

type Props = { error: Error; again?: () => void }

/**
 * What the service said when it refused, and a way on: to try again, or where there is nothing to be
 * had, elsewhere.
 */
export function Failure({ error, again }: Props) {
  const problem = error instanceof Refusal ? error.problem : undefined
  const gone = problem?.status === 404 || problem?.status === 403
  const next =
    again && !gone ? (
      <Button variant="light" onClick={again}>
        Try again
      </Button>
    ) : (
      <p>
        <Link to="/catalog">To the catalog</Link> · <Link to="/results">To the results</Link>
      </p>
    )
  return <State alone title={problem?.title ?? 'Something went wrong'} said={error.message} next={next} />
}

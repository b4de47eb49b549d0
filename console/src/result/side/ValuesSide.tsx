import { FormFields } from '../../report/form/FormFields'
import type { Filling } from '../../report/form/useForm'
import classes from './Side.module.css'

type Props = { filling: Filling }

/** The form beside its result, filled in as the result was made. */
export function ValuesSide({ filling }: Props) {
  return (
    <aside className={classes.side}>
      <h2>Values</h2>
      <FormFields
        filling={filling}
        narrow
        onLast={() => document.querySelector<HTMLButtonElement>('[data-run]')?.focus()}
      />
    </aside>
  )
}

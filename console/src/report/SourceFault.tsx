import type { Schemas } from '../api/client'
import { moment } from '../parts/said'

/** Says that the report's source cannot be read now, so that nobody waits for a run in vain. */
export function SourceFault({ form }: { form: Schemas['Form'] | undefined }) {
  if (!form?.sourceFault) return null
  return (
    <p className="told" role="status" data-source-fault>
      {form.sourceSilentSince
        ? `Its source does not answer since ${moment(form.sourceSilentSince)}. `
        : `Its source cannot be read: ${form.sourceFault}. `}
      What was kept can be read all the same.
    </p>
  )
}

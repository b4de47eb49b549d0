import type { FieldProps } from './props'

/** The ids of what stands around a field. */
export const aroundOf = (parameter: string) => ({
  help: `help-${parameter}`,
  fault: `fault-${parameter}`,
  hint: `hint-${parameter}`,
})

/** Ties an input to its help, fault and hint, so that they are read with it. */
export function tiesOf({ parameter, fault }: Pick<FieldProps, 'parameter' | 'fault'>) {
  const around = aroundOf(parameter.id)
  return {
    'aria-describedby': [parameter.help && around.help, fault ? around.fault : around.hint]
      .filter(Boolean)
      .join(' '),
    'aria-required': parameter.required || undefined,
    'aria-invalid': fault ? true : undefined,
  }
}

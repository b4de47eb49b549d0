import { Input } from '@mantine/core'
import type { ReactNode } from 'react'
import type { FieldProps } from './props'
import { aroundOf } from './ties'

type Props = Omit<FieldProps, 'report' | 'value' | 'given'> & {
  children: ReactNode
  id?: string
  hint?: ReactNode
}

/** Label, help, fault with what was probably meant, and the field between. */
export function FieldFrame({ parameter, fault, onChange, children, id, hint, from, dropped }: Props) {
  const near = fault?.near ?? []
  const around = aroundOf(parameter.id)
  return (
    <Input.Wrapper
      id={id}
      label={parameter.measure ? `${parameter.label}, ${parameter.measure}` : parameter.label}
      labelElement={id ? 'label' : 'div'}
      withAsterisk={parameter.required}
      errorProps={{ mt: 5, id: around.fault, role: 'alert' }}
      descriptionProps={{ id: around.help }}
      description={parameter.help || undefined}
      error={
        fault && (
          <span data-fault={parameter.id}>
            {fault.message}
            {near.length > 0 && (
              <>
                {' '}
                {near.map(code => (
                  <button key={code} type="button" className="offer" onClick={() => onChange(code)}>
                    use {code}
                  </button>
                ))}
              </>
            )}
          </span>
        )
      }
    >
      {children}
      <Input.Description mt={4} id={around.hint}>
        {!fault && (
          <>
            {hint}
            {hint && from && '; '}
            {from && `from ${from}`}
          </>
        )}
      </Input.Description>
      {dropped && (
        <p className="told" data-dropped={parameter.id}>
          Left out, because it does not go with the other values: {dropped.join(', ')}.
        </p>
      )}
    </Input.Wrapper>
  )
}

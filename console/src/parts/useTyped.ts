import { useState } from 'react'

/**
 * A value that is typed in the person's form and sent in the service's: what stands in the field
 * stays as it was typed for as long as it comes to the value.
 */
export function useTyped(
  value: string,
  onChange: (value: string) => void,
  shown: (value: string) => string,
  sent: (typed: string) => string,
) {
  const [typed, setTyped] = useState<string>()
  return {
    text: typed !== undefined && sent(typed) === value ? typed : shown(value),
    type: (text: string) => {
      setTyped(text)
      onChange(sent(text))
    },
  }
}

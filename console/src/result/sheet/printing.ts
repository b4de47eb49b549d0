import { useEffect, useState } from 'react'
import { flushSync } from 'react-dom'

/** Whether the browser prints just now, so that what is drawn for the window is drawn for paper. */
export function usePrinting() {
  const [printing, setPrinting] = useState(false)
  useEffect(() => {
    // What is printed is what is drawn when the event ends.
    const begin = () => flushSync(() => setPrinting(true))
    const end = () => setPrinting(false)
    window.addEventListener('beforeprint', begin)
    window.addEventListener('afterprint', end)
    return () => {
      window.removeEventListener('beforeprint', begin)
      window.removeEventListener('afterprint', end)
    }
  }, [])
  return printing
}

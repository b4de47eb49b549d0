import { createContext, useContext, useEffect, useRef, useState } from 'react'
import { useLocation, useNavigate } from 'react-router'

type Steps = {
  /** Takes the last step of reading back; undefined where there is none on this page. */
  undo?: () => void
  redo?: () => void
}

// How many steps the browser went since it came to the console, as the router notes it.
const now = () => (window.history.state as { idx?: number } | null)?.idx ?? 0

/**
 * The steps of reading on a page. Each is one of the browser's history, so that its back and forward go
 * the same way; what lies before the page, or behind it, is none of them.
 */
export function useStepsOf(page: string): Steps {
  const location = useLocation()
  const navigate = useNavigate()
  const places = useRef(new Map<number, string>())
  const [around, setAround] = useState({ before: false, after: false })
  useEffect(() => {
    const at = now()
    const search = new URLSearchParams(location.search)
    for (const p of ['hand', 'zoom']) search.delete(p) // which are no steps
    const key = `${page}?${search}`
    if (places.current.get(at) !== key)
      for (const n of places.current.keys()) if (n > at) places.current.delete(n) // another way was taken
    places.current.set(at, key)
    const of = (n: number) => places.current.get(n)?.startsWith(page) ?? false
    setAround({ before: of(at - 1), after: of(at + 1) })
  }, [page, location])
  return {
    undo: around.before ? () => navigate(-1) : undefined,
    redo: around.after ? () => navigate(1) : undefined,
  }
}

/** The steps of the page that a part stands on. */
export const StepsContext = createContext<Steps>({})

export function useSteps() {
  return useContext(StepsContext)
}

import { useEffect, type ReactNode } from 'react'

type Props = { title: string; className?: string; children?: ReactNode }

/**
 * The heading of a place, which also names the window and is announced when it comes, such as at the
 * end of a run.
 */
export function Heading({ title, className, children }: Props) {
  useEffect(() => {
    document.title = `${title} · Mantilla`
    const said = document.getElementById('announced')
    if (said) said.textContent = title
  }, [title])
  return <h1 className={className}>{children ?? title}</h1>
}

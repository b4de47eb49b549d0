import { useDebouncedCallback } from '@mantine/hooks'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { answer, api, Refusal, type Draft, type Opening } from '../../api/client'

type Change = { text?: string; writers?: string[]; testers?: Opening }

/** How long after the last letter a text is kept. */
const pause = 1200

/** A draft as it is written: it keeps itself, and tells when somebody else changed it. */
export function useDraft(id: string) {
  const client = useQueryClient()
  const key = ['draft', id]
  const draft = useQuery({
    queryKey: key,
    queryFn: () => answer(api.GET('/drafts/{draft}', { params: { path: { draft: id } } })),
    staleTime: Infinity,
  })
  const [text, setText] = useState<string>()
  const [theirs, setTheirs] = useState<Draft>()
  const written = text ?? draft.data?.text ?? ''
  const latest = useRef(written)
  latest.current = written
  const turn = useRef<Promise<unknown>>(Promise.resolve())
  const put = async ({ revision, ...change }: Change & { revision?: number }) => {
    const kept = await answer(
      api.PUT('/drafts/{draft}', {
        params: {
          path: { draft: id },
          header: { 'If-Match': `"${revision ?? client.getQueryData<Draft>(key)!.revision}"` },
        },
        body: { text: change.text ?? latest.current, writers: change.writers, testers: change.testers },
      }),
    )
    client.setQueryData(key, kept)
    return kept
  }
  const keep = useMutation({
    // One after the other, each with the revision that the one before it made.
    mutationFn: (change: Change & { revision?: number }) => {
      const mine = turn.current.catch(() => {}).then(() => put(change))
      turn.current = mine
      return mine
    },
    onSuccess: kept => {
      setTheirs(undefined)
      const tried = kept.line.tryAs
      for (const about of ['report', 'form', 'preview'])
        client.invalidateQueries({ queryKey: [about, tried] })
      client.invalidateQueries({ queryKey: ['drafts'] })
    },
    onError: async error => {
      if (error instanceof Refusal && error.problem.type === 'stale')
        setTheirs(await answer(api.GET('/drafts/{draft}', { params: { path: { draft: id } } })))
    },
  })
  const later = useDebouncedCallback(() => keep.mutate({}), pause)
  const stale = keep.error instanceof Refusal && keep.error.problem.type === 'stale'
  return {
    draft: draft.data,
    error: draft.error,
    text: written,
    /** Whether what is written is kept. */
    kept: written === draft.data?.text && !keep.isPending,
    failed: keep.error && !stale ? keep.error : undefined,
    /** The draft as somebody else changed it meanwhile. */
    theirs,
    write: (text: string) => {
      setText(text)
      later()
    },
    keep: (change: Change = {}) => keep.mutateAsync(change),
    /** Keeps one's own text over theirs, or takes theirs. */
    settle: (mine: boolean) => {
      if (!theirs) return
      if (mine) keep.mutate({ revision: theirs.revision })
      else {
        client.setQueryData(key, theirs)
        setText(theirs.text)
        setTheirs(undefined)
        keep.reset()
      }
    },
  }
}

export type Drafting = ReturnType<typeof useDraft>

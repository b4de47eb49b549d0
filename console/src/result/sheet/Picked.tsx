import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Sheet } from '../../api/client'
import { count } from '../../parts/said'
import { query, type Reading } from '../reading'
import type { Area } from './picking'
import classes from './Picked.module.css'
import { number } from '../../parts/form'

/** What picked cells come to, as the service adds them up. */
export function usePicked(
  result: string,
  sheet: Sheet,
  reading: Reading,
  area: Area | undefined,
  columns: number[],
) {
  const view = sheet.kept?.id ?? sheet.view
  // Columns that are folded away are not picked over.
  const folded = sheet.columns.length === sheet.columns_of && columns.length < sheet.columns_of
  const column = folded ? columns.map(i => sheet.columns[i].id) : query(reading).column
  return useQuery({
    queryKey: ['cells', result, view, reading, area, column],
    queryFn: () =>
      answer(
        api.GET('/results/{result}/views/{view}/cells', {
          params: {
            path: { result, view },
            query: {
              ...query(reading),
              column,
              first: area!.first,
              count: area!.last - area!.first + 1,
              first_column: area!.left,
              column_count: area!.right - area!.left + 1,
            },
          },
        }),
      ),
    enabled: area !== undefined,
    staleTime: Infinity,
    gcTime: 30_000,
    placeholderData: keepPreviousData,
  })
}

type Props = { picked: ReturnType<typeof usePicked>; onClear: () => void }

/** The line below a sheet: what the picked cells come to, and a way to take them along. */
export function Picked({ picked, onClear }: Props) {
  const [copied, setCopied] = useState<object>()
  const d = picked.data
  const copy = () => navigator.clipboard.writeText(d!.text).then(() => setCopied(d))
  return (
    <div className={classes.line} data-picked>
      <div role="status" className={classes.says}>
        {picked.error && <span className={classes.wrong}>{picked.error.message}</span>}
        {d && !picked.error && (
          <>
            <span>{count(d.cells, 'cell', 'cells')}</span>
            {d.columns.slice(0, 4).map(c => (
              <span key={c.heading}>
                <b>{c.heading}</b> {said(c)}
              </span>
            ))}
            {d.columns.length > 4 && <span className="dim">and {d.columns.length - 4} columns more</span>}
            {d.mixed && <span className="dim">groups of several levels are in it</span>}
            {copied === d && <span>copied</span>}
          </>
        )}
      </div>
      {d && !picked.error && window.isSecureContext && (
        <button type="button" className="act" onClick={() => void copy()}>
          Copy
        </button>
      )}
      <button type="button" className="act" onClick={onClear}>
        Done
      </button>
    </div>
  )
}

type OfColumn = { filled: number; sum?: string; average?: string; least?: string; most?: string }

/** What the cells of one column come to, in words. */
function said(c: OfColumn) {
  if (c.filled === 0) return 'nothing'
  if (c.sum !== undefined)
    return `sum ${c.sum}, average ${c.average}, from ${c.least} to ${c.most}, ${number(c.filled)} filled`
  if (c.least !== undefined) return `from ${c.least} to ${c.most}, ${number(c.filled)} filled`
  return `${number(c.filled)} filled`
}

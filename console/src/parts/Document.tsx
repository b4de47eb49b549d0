import type { Schemas } from '../api/client'
import { moment, size } from './said'
import { at } from '../api/below'

type Props = { resource: Schemas['Resource'] }

/** A document to be fetched, or a link that leads elsewhere, with what it is. */
export function Document({ resource: r }: Props) {
  return (
    <>
      {r.address ? (
        <a href={r.address} target="_blank" rel="noreferrer">
          {r.title} ↗
        </a>
      ) : r.latest ? (
        <a href={at(`/api/resources/${r.id}/file`)} download={r.latest.name}>
          {r.title}
        </a>
      ) : (
        r.title
      )}
      <div className="dim">
        {r.about}
        {r.latest && ` ${r.latest.name}, ${size(r.latest.bytes)}, since ${moment(r.latest.at)}`}
      </div>
    </>
  )
}

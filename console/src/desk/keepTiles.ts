import { answer, api, type Desk, type Tile } from '../api/client'

/** Keeps the tiles of a desk, if nobody changed it since it was read. */
export function keepTiles({ kind, owner, revision }: Desk, tiles: Tile[]) {
  return answer(
    api.PUT('/desks/{kind}/{owner}', {
      params: { path: { kind, owner }, header: revision ? { 'If-Match': String(revision) } : {} },
      body: tiles,
    }),
  )
}

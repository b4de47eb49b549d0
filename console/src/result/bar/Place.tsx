import { Button } from '@mantine/core'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useSearchParams } from 'react-router'
import { answer, api, type Result, type Tile } from '../../api/client'
import { keepTiles } from '../../desk/keepTiles'
import { offerUndo } from '../../trash/undo'
import { changesOf, readingIn } from '../reading'
import { useSheet } from '../sheet/pages'

type Props = { result: Result; view: string | undefined }

/** Places the view in sight on one's desk, as it is laid out. */
export function Place({ result, view = '' }: Props) {
  const client = useQueryClient()
  const [params] = useSearchParams()
  const reading = readingIn(params, view)
  const sheet = useSheet(result.id, view, reading, view !== '').data
  const place = useMutation({
    mutationFn: async () => {
      const tile: Tile = {
        result: result.id,
        control: '',
        step: 0,
        view,
        changes: changesOf(reading),
        show: sheet?.chart ? 'chart' : 'table',
      }
      const desk = await mine()
      return (await keepTiles(desk, [...desk.tiles, tile])).tiles.at(-1)!.id
    },
    onSuccess: placed => {
      void client.invalidateQueries({ queryKey: ['desks'] })
      offerUndo({
        id: result.id,
        says: `${result.id} is on your desk.`,
        undo: async () => {
          const desk = await mine()
          return keepTiles(
            desk,
            desk.tiles.filter(t => t.id !== placed),
          )
        },
      })
    },
  })
  if (!sheet) return null
  return (
    <>
      <Button
        size="compact-sm"
        variant="subtle"
        color="gray"
        title="Place it on your desk, as it is laid out now"
        loading={place.isPending}
        onClick={() => place.mutate()}
      >
        Place
      </Button>
      {place.error && (
        <span className="told" role="alert">
          {place.error.message}
        </span>
      )}
    </>
  )
}

/** One's own desk, which stands first. */
const mine = async () => (await answer(api.GET('/desks')))[0]!

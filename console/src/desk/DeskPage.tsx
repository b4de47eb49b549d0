import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core'
import {
  arrayMove,
  rectSortingStrategy,
  SortableContext,
  sortableKeyboardCoordinates,
} from '@dnd-kit/sortable'
import { Button, Group, Modal } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { answer, api, type Desk, type Tile } from '../api/client'
import { Failure } from '../parts/Failure'
import { State } from '../parts/State'
import { useRight } from '../signin/session'
import { offerUndo, tellThrown } from '../trash/undo'
import { Comings } from './Comings'
import classes from './Desk.module.css'
import { Needs } from './Needs'
import { keepTiles } from './keepTiles'
import { TileCard } from './TileCard'
import { TileForm } from './TileForm'
import { Heading } from '../parts/Heading'

/** What one keeps close: tiles of one's own and of one's groups, what is due, what ran and what needs one. */
export function DeskPage() {
  const [params, setParams] = useSearchParams()
  const desks = useQuery({ queryKey: ['desks'], queryFn: () => answer(api.GET('/desks')) })
  const mayRun = useRight('run')
  if (desks.error) return <Failure error={desks.error} again={() => desks.refetch()} />
  if (!desks.data) return null
  const shown = desks.data.find(d => d.kind === 'group' && d.owner === params.get('group')) ?? desks.data[0]
  return (
    <div className={classes.page} data-alone={!mayRun || undefined}>
      <Heading className="unseen" title="Desk" />
      <section className={classes.tiles}>
        <Needs />
        {desks.data.length > 1 && (
          <nav className={classes.desks} aria-label="Desks">
            {desks.data.map(d => (
              <button
                key={d.kind + d.owner}
                aria-current={d === shown || undefined}
                onClick={() => setParams(d.kind === 'group' ? { group: d.owner } : {})}
              >
                {d.kind === 'person' ? 'My desk' : `Shared by ${d.owner}`}
              </button>
            ))}
          </nav>
        )}
        <Tiles key={shown.kind + shown.owner} desk={shown} />
      </section>
      {mayRun && <Comings />}
    </div>
  )
}

function Tiles({ desk }: { desk: Desk }) {
  const client = useQueryClient()
  const [edited, setEdited] = useState<Tile | 'new'>()
  const wall = useRef<HTMLUListElement>(null)
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  const put = useMutation({
    mutationFn: (tiles: Tile[]) => keepTiles(desk, tiles),
    // The new order shows at once; a refusal brings the old one back.
    onMutate: tiles =>
      client.setQueryData(['desks'], (all: Desk[] | undefined) =>
        all?.map(d => (d.kind === desk.kind && d.owner === desk.owner ? { ...d, tiles } : d)),
      ),
    onSettled: () => client.invalidateQueries({ queryKey: ['desks'] }),
  })
  const moved = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return
    const at = (id: unknown) => desk.tiles.findIndex(t => t.id === id)
    put.mutate(arrayMove(desk.tiles, at(active.id), at(over.id)))
  }
  const keep = async (tile: Tile) => {
    const was = edited
    await put.mutateAsync(
      was === 'new' ? [...desk.tiles, tile] : desk.tiles.map(t => (t.id === tile.id ? tile : t)),
    )
    if (was !== 'new' && was)
      offerUndo({
        id: was.id ?? '',
        says: 'The tile is changed.',
        undo: async () => {
          const now = (await answer(api.GET('/desks'))).find(
            d => d.kind === desk.kind && d.owner === desk.owner,
          )!
          return keepTiles(
            now,
            now.tiles.map(t => (t.id === was.id ? was : t)),
          )
        },
      })
    setEdited(undefined)
  }
  const remove = async (tile: Tile) => {
    await put.mutateAsync(desk.tiles.filter(o => o !== tile))
    const thrown = (await answer(api.GET('/trash'))).find(t => t.kind === 'tile')
    if (thrown) tellThrown(thrown)
  }
  return (
    <>
      {put.error && !edited && (
        <p className="told" role="alert">
          {put.error.message}
        </p>
      )}
      {desk.tiles.length === 0 && (
        <State
          title="Nothing stands here yet"
          said="Find a report and run it; look at what was kept before; or place a figure, a chart or a short table of what a run control gives, and see it here each time it has run."
          next={
            <Group justify="center">
              <Button component={Link} to="/catalog">
                Find a report
              </Button>
              <Button component={Link} to="/results" variant="subtle">
                Look at what was kept
              </Button>
              <Button onClick={() => setEdited('new')} variant="subtle">
                Place a tile
              </Button>
            </Group>
          }
        />
      )}
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={moved}>
        <SortableContext items={desk.tiles.map(t => t.id ?? '')} strategy={rectSortingStrategy}>
          <ul className={classes.grid} ref={wall}>
            {desk.tiles.map(t => (
              <TileCard key={t.id} tile={t} onEdit={() => setEdited(t)} onRemove={() => void remove(t)} />
            ))}
          </ul>
        </SortableContext>
      </DndContext>
      {desk.tiles.length > 0 && (
        <Group gap="xs" data-acts>
          <Button size="xs" variant="light" onClick={() => setEdited('new')}>
            Place a tile
          </Button>
          <Button size="xs" variant="subtle" onClick={() => void wall.current?.requestFullscreen()}>
            Full screen
          </Button>
        </Group>
      )}
      <Modal
        opened={edited !== undefined}
        onClose={() => setEdited(undefined)}
        title={edited === 'new' ? 'A tile' : 'Change the tile'}
      >
        {edited && <TileForm tile={edited === 'new' ? undefined : edited} error={put.error} onKeep={keep} />}
      </Modal>
    </>
  )
}

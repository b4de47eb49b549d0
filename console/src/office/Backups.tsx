import { Button, Group } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import { count, moment, size } from '../parts/said'
import classes from './Office.module.css'
import { at } from '../api/below'
import { Rows } from '../parts/Rows'

/** Copies of all that the service keeps: those it makes by itself, one made now, one taken away. */
export function Backups() {
  const client = useQueryClient()
  const backups = useQuery({ queryKey: ['backups'], queryFn: () => answer(api.GET('/backups')) })
  const make = useMutation({
    mutationFn: () => answer(api.POST('/backups')),
    onSuccess: () => client.invalidateQueries({ queryKey: ['backups'] }),
  })
  const b = backups.data
  if (!b) return backups.error && <p className={classes.wrong}>{backups.error.message}</p>
  return (
    <section aria-label="Back-ups">
      <p>
        {b.dir === ''
          ? 'The service makes no back-ups by itself: it is started without --backup-dir. One can be taken away here.'
          : b.everySeconds === 0
            ? `Back-ups are made in ${b.dir} when somebody asks; the newest ${b.keep} stay.`
            : `A back-up is made in ${b.dir} every ${often(b.everySeconds)}; the newest ${b.keep} stay.`}{' '}
        {b.dir !== '' &&
          b.whole > 1 &&
          `One of ${b.whole} has everything, the others what changed since; it stays as long as one leans on it.`}
      </p>
      {b.fault && (
        <p className={classes.wrong} role="alert">
          The last was not made, {moment(b.faultAt)}: {b.fault}
        </p>
      )}
      <Group gap="sm" mb="md">
        {b.dir !== '' && (
          <Button size="xs" loading={make.isPending} onClick={() => make.mutate()}>
            Make one now
          </Button>
        )}
        <Button size="xs" variant="default" component="a" href={at('/api/backup')} download>
          Take one away
        </Button>
      </Group>
      {make.error && (
        <p className={classes.wrong} role="alert">
          {make.error.message}
        </p>
      )}
      {b.files.length > 0 && (
        <Rows heads={['Back-up', 'Made', 'Size', 'Has']}>
          {b.files.map(f => (
            <tr key={f.name}>
              <td>{f.name}</td>
              <td>{moment(f.at)}</td>
              <td>{size(f.bytes)}</td>
              <td>{f.after ? `what changed since ${f.after}` : 'everything'}</td>
            </tr>
          ))}
        </Rows>
      )}
      <p className="dim">
        In a back-up are the catalog, results, people and run controls; not the files of sources, and not the
        key that seals passwords. <code>mantilla restore FILE --data DIRECTORY</code> brings one back,{' '}
        <code>mantilla verify FILE</code> proves that it can be.
      </p>
    </section>
  )
}

/** How often back-ups are made. */
function often(seconds: number): string {
  return seconds % 3600 === 0
    ? count(seconds / 3600, 'hour', 'hours')
    : count(seconds / 60, 'minute', 'minutes')
}

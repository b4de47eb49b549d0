import { Button, Group, Modal } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Result, type Sheet, type Take } from '../../api/client'
import { query, type Reading } from '../reading'
import { Preview } from './Preview'
import classes from './TakeAway.module.css'
import { TakeForm } from './TakeForm'
import { Writing } from './Writing'

type Props = {
  result: Result
  view: string
  sheet: Sheet
  reading: Reading
  /** Views that go with it, where it is a page that is taken away. */
  also?: string[]
  /** It is what the page is there for. */
  primary?: boolean
}

/** Takes a view away as a file: its form and options, a preview of pages, and the writing. */
export function TakeAway({ result, view, sheet, reading, also = [], primary }: Props) {
  const [open, { open: show, close }] = useDisclosure(false)
  const [take, setTake] = useState<Take>({ format: 'xlsx', table: { mark: true }, also })
  const start = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/results/{result}/views/{view}/exports', {
          params: {
            path: {
              result: result.id,
              view: take.format === 'import' ? (take.view ?? result.imports[0].id) : view,
            },
            query: query(reading),
          },
          body: take,
        }),
      ),
  })
  const change = (to: Take) => (setTake(to), start.reset())
  const pages = take.format === 'pdf'
  return (
    <>
      <Button size="compact-sm" variant={primary ? 'filled' : 'subtle'} onClick={show}>
        Take away
      </Button>
      <Modal
        opened={open}
        onClose={close}
        title={`Take ${also.length ? result.title : sheet.title} away`}
        size={pages ? '68rem' : 'lg'}
      >
        <div className={classes.halves} data-pages={pages || undefined}>
          <div>
            <TakeForm
              take={take}
              onChange={change}
              chart={sheet.chart !== undefined}
              others={result.views.filter(v => v.id !== view)}
              imports={result.imports}
            />
            {start.error && (
              <p className="told" role="alert">
                {start.error.message}
              </p>
            )}
            {start.data ? (
              <Writing key={start.data.id} file={start.data} onAgain={() => start.reset()} />
            ) : (
              <Group mt="md">
                <Button loading={start.isPending} onClick={() => start.mutate()} data-autofocus>
                  Write the file
                </Button>
              </Group>
            )}
          </div>
          {pages && <Preview result={result.id} view={view} reading={reading} take={take} />}
        </div>
      </Modal>
    </>
  )
}

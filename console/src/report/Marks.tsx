import { TimePicker } from '@mantine/dates'
import { DayInput } from '../parts/DayInput'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../api/client'
import { Remove } from '../parts/Remove'
import { fromTrash } from '../trash/undo'

type Props = { report: string }

/** Until when one looked at a report with "since last run"; each mark can be set back or forgotten. */
export function Marks({ report }: Props) {
  const [set, setSet] = useState<{ id: string; day: string }>()
  const [wrong, setWrong] = useState<string>()
  const marks = useQuery({
    queryKey: ['marks', report],
    queryFn: () => answer(api.GET('/reports/{report}/marks', { params: { path: { report } } })),
  })
  if (!marks.data?.length) return null
  const act = async (call: Promise<unknown>) => {
    try {
      await call
      setWrong(undefined)
      setSet(undefined)
    } catch (e) {
      setWrong((e as Error).message)
    }
    await marks.refetch()
  }
  return (
    <section data-marks>
      <h2>Looked at until</h2>
      <ul>
        {marks.data.map(m => (
          <li key={m.id}>
            {m.label}, {m.whose}: {m.says}{' '}
            <button
              type="button"
              className="act"
              onClick={() => setSet({ id: m.id, day: m.at.slice(0, 16) })}
            >
              Set
            </button>{' '}
            <Remove
              word="Forget"
              name={m.says}
              says="The next run since last run begins at the beginning again."
              onRemove={() => act(answer(api.DELETE('/marks/{mark}', { params: { path: { mark: m.id } } })))}
              undo={fromTrash('mark', m.id)}
            />
            {set?.id === m.id && (
              <form
                onSubmit={e => (
                  e.preventDefault(),
                  act(
                    answer(
                      api.PUT('/marks/{mark}', {
                        params: { path: { mark: m.id } },
                        body: { at: `${set.day}:00Z` },
                      }),
                    ),
                  )
                )}
              >
                <DayInput
                  size="xs"
                  label="Looked at until"
                  clearable={false}
                  value={set.day.slice(0, 10)}
                  onChange={day => day && setSet({ ...set, day: day + set.day.slice(10) })}
                />
                <TimePicker
                  size="xs"
                  label="UTC"
                  hoursInputLabel="Hour"
                  minutesInputLabel="Minute"
                  value={set.day.slice(11)}
                  onChange={at => at && setSet({ ...set, day: set.day.slice(0, 11) + at.slice(0, 5) })}
                />
                <button type="submit" className="act">
                  Keep
                </button>
              </form>
            )}
          </li>
        ))}
      </ul>
      {wrong && (
        <p className="told" role="alert">
          {wrong}
        </p>
      )}
    </section>
  )
}

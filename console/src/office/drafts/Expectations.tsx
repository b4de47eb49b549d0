import { Button } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { answer, api } from '../../api/client'
import { CheckList } from '../../parts/CheckList'
import { count } from '../../parts/said'
import classes from './DraftPage.module.css'

type Props = { text: string }

/** Tries what a definition expects of its figures on real rows. */
export function Expectations({ text }: Props) {
  const tried = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/definitions/try', {
          body: text,
          bodySerializer: (t: string) => t,
          headers: { 'Content-Type': 'application/yaml' },
        }),
      ),
  })
  return (
    <div data-tried={tried.isSuccess || undefined}>
      <p className="dim">
        Figures that you know, under <code>expected</code>, are compared with what the source gives now. They
        are tried again before the draft is taken in.
      </p>
      <Button size="xs" variant="light" loading={tried.isPending} onClick={() => tried.mutate()}>
        Try the expectations
      </Button>
      <div aria-live="polite">
        {tried.error && <p className={classes.wrong}>{tried.error.message}</p>}
        {tried.data?.length === 0 && <p>The text expects nothing yet.</p>}
        {tried.data?.map((t, i) => (
          <section key={i}>
            <h2>{t.name}</h2>
            <p className="dim">
              {t.sentence} {count(t.rows, 'row', 'rows')} read.
            </p>
            {t.failed && <p className={classes.wrong}>{t.failed}</p>}
            <table className={classes.tried}>
              <thead>
                <tr>
                  <th scope="col">Figure</th>
                  <th scope="col">Expected</th>
                  <th scope="col">Is</th>
                </tr>
              </thead>
              <tbody>
                {t.figures.map(f => (
                  <tr key={f.dataset + f.is} data-same={f.same}>
                    <th scope="row">
                      <code>{f.is}</code>
                    </th>
                    <td>{f.expected}</td>
                    <td>{f.why ?? f.got}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            <CheckList checks={t.checks} />
          </section>
        ))}
      </div>
    </div>
  )
}

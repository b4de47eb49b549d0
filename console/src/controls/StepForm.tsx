import { ActionIcon, Button, Modal, Select } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useQuery } from '@tanstack/react-query'
import { answer, api, type Step, type Values } from '../api/client'
import { FormFields } from '../report/form/FormFields'
import { useForm } from '../report/form/useForm'
import classes from './ControlPage.module.css'

type Props = {
  number: number
  step: Step
  error?: string
  onChange: (step: Step) => void
  onRemove?: () => void
  onUp?: () => void
}

/**
 * One report of a run control: which, with which criteria or values of its own, and the view that
 * opens first.
 */
export function StepForm({ number, step, error, onChange, onRemove, onUp }: Props) {
  const [open, { open: edit, close }] = useDisclosure(false)
  const catalog = useQuery({ queryKey: ['catalog', '', ''], queryFn: () => answer(api.GET('/catalog')) })
  const criteria = useQuery({
    queryKey: ['criteria-of', step.report, ''],
    queryFn: () =>
      answer(
        api.GET('/reports/{report}/criteria', {
          params: { path: { report: step.report }, query: { limit: 200 } },
        }),
      ),
    enabled: step.report !== '',
  })
  const chosen = criteria.data?.find(c => c.id === step.criteria)
  const report = useQuery({
    queryKey: ['report', step.report],
    queryFn: () => answer(api.GET('/reports/{report}', { params: { path: { report: step.report } } })),
    enabled: step.report !== '',
  })
  return (
    <li className={classes.step}>
      <span className={classes.number}>{number}</span>
      <div className={classes.parts}>
        <Select
          label="Report"
          aria-label={`Report ${number}`}
          searchable
          data={catalog.data?.reports.map(r => ({ value: r.id, label: r.title })) ?? []}
          value={step.report || null}
          onChange={r => onChange({ report: r ?? '', values: {} })}
          error={error}
        />
        <Select
          label="Values"
          data={[
            { value: '', label: 'of its own' },
            ...(criteria.data ?? []).map(c => ({ value: c.id, label: `criteria “${c.name}”` })),
          ]}
          value={step.criteria ?? ''}
          disabled={!step.report}
          allowDeselect={false}
          onChange={c =>
            onChange(
              c
                ? { report: step.report, view: step.view, criteria: c }
                : { report: step.report, view: step.view, values: {} },
            )
          }
        />
        <Select
          label="Opens with"
          data={[
            { value: '', label: 'the report’s page' },
            ...(report.data?.views ?? []).map(v => ({ value: v.id, label: v.title })),
          ]}
          value={step.view ?? ''}
          disabled={!step.report}
          allowDeselect={false}
          onChange={v => onChange({ ...step, view: v || undefined })}
        />
        {step.report && !step.criteria && (
          <p className={classes.sentence}>
            <OwnSentence report={step.report} values={step.values ?? {}} />{' '}
            <button type="button" className="act" onClick={edit}>
              Fill in
            </button>
          </p>
        )}
        {chosen && <p className={classes.sentence}>{chosen.sentence || chosen.unfit.join(' ')}</p>}
      </div>
      <div>
        {onUp && (
          <ActionIcon variant="subtle" aria-label={`Move report ${number} up`} onClick={onUp}>
            ↑
          </ActionIcon>
        )}
        {onRemove && (
          <ActionIcon variant="subtle" aria-label={`Leave out report ${number}`} onClick={onRemove}>
            ×
          </ActionIcon>
        )}
      </div>
      <Modal opened={open} onClose={close} title="Values of this report" size="xl">
        <OwnValues
          report={step.report}
          values={step.values ?? {}}
          onDone={values => (onChange({ report: step.report, view: step.view, values }), close())}
        />
      </Modal>
    </li>
  )
}

type OwnProps = { report: string; values: Values }

function OwnSentence({ report, values }: OwnProps) {
  const { resolution, faults } = useForm(report, values)
  return <>{faults.length > 0 ? 'Some values are still to be filled in.' : resolution?.sentence}</>
}

function OwnValues({ report, values, onDone }: OwnProps & { onDone: (values: Values) => void }) {
  const filling = useForm(report, values)
  return (
    <>
      <FormFields
        filling={filling}
        onLast={() => document.querySelector<HTMLButtonElement>('[data-done]')?.focus()}
      />
      <Button data-done onClick={() => onDone(filling.values)}>
        Take these values
      </Button>
    </>
  )
}

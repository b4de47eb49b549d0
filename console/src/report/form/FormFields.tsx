import { useState } from 'react'
import type { Parameter } from '../../api/client'
import { Field } from '../fields/Field'
import classes from './FormFields.module.css'
import { goOn } from './goOn'
import type { Filling } from './useForm'

type Props = { filling: Filling; narrow?: boolean; onLast: () => void }

const folded = 'More'

/**
 * All fields of a form, by their groups. Enter goes on to the next one; those under More are folded
 * until they are wanted or set.
 */
export function FormFields({ filling, narrow, onLast }: Props) {
  const { report, form, values, faults, resolution, dropped, set } = filling
  const [more, setMore] = useState(false)
  if (!report || !form) return null
  const shown = report.parameters.filter(p => !p.hidden)
  const groups = [...new Set(shown.map(p => p.group))].sort(
    (a, b) => Number(a === folded) - Number(b === folded) || Number(a !== '') - Number(b !== ''),
  )
  const changed = (p: Parameter) => values[p.id] !== form.defaults[p.id]
  const open =
    more || shown.some(p => p.group === folded && (changed(p) || faults.some(f => f.field === p.id)))
  return (
    <div onKeyDown={e => goOn(e, onLast)} data-form>
      {groups.map(group => (
        <fieldset key={group} className={classes.group}>
          {group === folded ? (
            <button
              type="button"
              className={classes.more}
              data-field="more"
              aria-expanded={open}
              onClick={() => setMore(!open)}
            >
              {open ? '▾' : '▸'} More
            </button>
          ) : (
            group && <legend className={classes.legend}>{group}</legend>
          )}
          {(group !== folded || open) && (
            <div className={narrow ? classes.narrow : classes.fields}>
              {shown
                .filter(p => p.group === group)
                .map(p => (
                  <div key={p.id} data-field={p.id} className={wide.has(p.type) ? classes.wide : undefined}>
                    <Field
                      report={report.id}
                      parameter={p}
                      value={values[p.id]}
                      onChange={v => set(p.id, v)}
                      list={form.lists[p.id]}
                      periods={form.periods[p.id]}
                      from={changed(p) || !values[p.id] ? undefined : form.from[p.id]}
                      dropped={dropped[p.id]}
                      given={given(p, values)}
                      fault={faults.find(f => f.field === p.id)}
                      says={resolution?.facts.find(f => f.parameter === p.id)?.says}
                    />
                  </div>
                ))}
            </div>
          )}
        </fieldset>
      ))}
    </div>
  )
}

const wide = new Set(['choice', 'unit', 'ranges', 'columns', 'grouping', 'codes'])

/** The values that narrow a parameter's list, as the service asks for them. */
function given(p: Parameter, values: Record<string, string>) {
  return p.narrowedBy.map(name => `${name}=${values[name] ?? ''}`)
}

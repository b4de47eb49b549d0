import {
  Checkbox,
  Input,
  MultiSelect,
  NumberInput,
  PasswordInput,
  SegmentedControl,
  Select,
  TextInput,
} from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { answer, api, type Take } from '../../api/client'
import classes from './TakeAway.module.css'

type Props = {
  take: Take
  onChange: (take: Take) => void
  /** Whether the view is a chart, which can be taken as a drawing too. */
  chart?: boolean
  others?: { id: string; title: string }[]
  /** Import-ready files that the report declares. */
  imports?: { id: string; title: string }[]
}

type Table = NonNullable<Take['table']>
type Page = NonNullable<Take['page']>

/** What is written, and how: the format and the options that belong to it. */
export function TakeForm({ take, onChange, chart, others = [], imports = [] }: Props) {
  const formats = useQuery({
    queryKey: ['formats'],
    queryFn: () => answer(api.GET('/formats')),
    staleTime: Infinity,
  })
  const set = (part: Partial<Take>) => onChange({ ...take, ...part })
  const table = (part: Partial<Table>) => set({ table: { ...take.table, ...part } })
  const page = (part: Partial<Page>) => set({ page: { ...take.page, ...part } })
  const told = ['csv', 'xlsx'].includes(take.format)
  const noted = ['xlsx', 'pdf', 'html', 'text'].includes(take.format)
  return (
    <>
      <Select
        label="As"
        data={
          formats.data
            ?.filter(f => (!f.chart || chart !== false) && (!f.import || imports.length > 0))
            .map(f => ({ value: f.id, label: f.label })) ?? []
        }
        value={take.format}
        allowDeselect={false}
        onChange={f => f && set({ format: f as Take['format'] })}
        data-format
      />
      {take.format === 'import' && (
        <Select
          mt="sm"
          label="File"
          data={imports.map(f => ({ value: f.id, label: f.title }))}
          value={take.view ?? imports[0]?.id}
          allowDeselect={false}
          onChange={v => set({ view: v ?? undefined })}
        />
      )}
      {others.length > 0 && take.format !== 'import' && (
        <MultiSelect
          mt="sm"
          label="With other views"
          placeholder={take.also?.length ? '' : 'none'}
          data={others.map(v => ({ value: v.id, label: v.title }))}
          value={take.also ?? []}
          onChange={also => set({ also })}
          clearable
        />
      )}
      <div className={classes.options}>
        {take.format === 'pdf' && (
          <>
            <Select
              label="Paper"
              data={[
                { value: 'a4', label: 'A4' },
                { value: 'a3', label: 'A3' },
                { value: 'a5', label: 'A5' },
                { value: 'letter', label: 'Letter' },
                { value: 'legal', label: 'Legal' },
              ]}
              value={take.page?.size ?? 'a4'}
              allowDeselect={false}
              onChange={size => page({ size: size as Page['size'] })}
            />
            <NumberInput
              label="Margin"
              suffix=" mm"
              min={5}
              max={60}
              value={take.page?.margin ?? 14}
              onChange={m => page({ margin: Number(m) || undefined })}
            />
            <Choice
              wide
              label="The page lies"
              data={[
                ['auto', 'as needed'],
                ['portrait', 'upright'],
                ['landscape', 'across'],
              ]}
              value={take.page?.orientation ?? 'auto'}
              onChange={o => page({ orientation: o as Page['orientation'] })}
            />
            <Choice
              wide
              label="Columns that do not fit"
              data={[
                ['auto', 'as needed'],
                ['width', 'make smaller'],
                ['split', 'further pages'],
              ]}
              value={take.page?.fit ?? 'auto'}
              onChange={f => page({ fit: f as Page['fit'] })}
            />
            <NumberInput
              label="Columns repeated"
              min={1}
              max={20}
              value={take.page?.lead ?? 1}
              onChange={l => page({ lead: Number(l) || undefined })}
            />
            <Checkbox
              mt="xl"
              label="With a cover"
              checked={take.page?.cover ?? false}
              onChange={e => page({ cover: e.currentTarget.checked })}
            />
          </>
        )}
        {take.format === 'csv' && (
          <>
            <Select
              label="Between columns"
              data={[
                { value: 'comma', label: 'comma' },
                { value: 'semicolon', label: 'semicolon' },
                { value: 'tab', label: 'tab' },
                { value: 'bar', label: 'bar' },
              ]}
              value={take.table?.separator ?? 'comma'}
              allowDeselect={false}
              onChange={s => table({ separator: s as Table['separator'] })}
            />
            <Select
              label="Decimal sign"
              data={['point', 'comma']}
              value={take.table?.decimal ?? 'point'}
              allowDeselect={false}
              onChange={d => table({ decimal: d as Table['decimal'] })}
            />
            <Select
              label="Headings"
              data={[
                { value: 'labels', label: 'as people read them' },
                { value: 'names', label: 'names of columns' },
                { value: 'none', label: 'none' },
              ]}
              value={take.table?.headings ?? 'labels'}
              allowDeselect={false}
              onChange={h => table({ headings: h as Table['headings'] })}
            />
            <Checkbox
              mt="xl"
              label="Byte-order mark"
              checked={take.table?.mark ?? false}
              onChange={e => table({ mark: e.currentTarget.checked })}
            />
            <Checkbox
              className={classes.wide}
              label="Leave texts that a spreadsheet would run as formulas"
              description="Otherwise an apostrophe stands before them."
              checked={take.table?.raw ?? false}
              onChange={e => table({ raw: e.currentTarget.checked })}
            />
          </>
        )}
        {told && (
          <Checkbox
            className={classes.wide}
            label="Title and values in the file"
            checked={take.told ?? false}
            onChange={e => set({ told: e.currentTarget.checked })}
          />
        )}
        {noted && (
          <Checkbox
            className={classes.wide}
            label="Open notes on the result"
            checked={take.notes ?? false}
            onChange={e => set({ notes: e.currentTarget.checked })}
          />
        )}
        <TextInput
          className={classes.wide}
          label="File name"
          placeholder="{report} {view} {result}"
          description="{report}, {title}, {view}, {result}, {date} and names of parameters are filled in"
          value={take.name ?? ''}
          onChange={e => set({ name: e.currentTarget.value || undefined })}
        />
        <Checkbox
          mt={28}
          label="Packed (ZIP)"
          checked={take.zip ?? false}
          onChange={e => set({ zip: e.currentTarget.checked, password: undefined })}
        />
        {take.zip && (
          <PasswordInput
            label="Password"
            placeholder="none"
            value={take.password ?? ''}
            onChange={e => set({ password: e.currentTarget.value || undefined })}
          />
        )}
      </div>
    </>
  )
}

type ChoiceProps = {
  label: string
  data: [string, string][]
  value: string
  wide?: boolean
  onChange: (value: string) => void
}

function Choice({ label, data, value, wide, onChange }: ChoiceProps) {
  return (
    <div className={wide ? classes.wide : undefined}>
      <Input.Label>{label}</Input.Label>
      <SegmentedControl
        size="xs"
        fullWidth
        aria-label={label}
        data={data.map(([v, l]) => ({ value: v, label: l }))}
        value={value}
        onChange={onChange}
      />
    </div>
  )
}

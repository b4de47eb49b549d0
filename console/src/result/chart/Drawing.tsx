import { dayOf } from '../../parts/said'
import {
  Area,
  AreaChart,
  Bar,
  BarChart,
  CartesianGrid,
  Cell,
  Line,
  LineChart,
  Pie,
  PieChart,
  ReferenceLine,
  ResponsiveContainer,
  Scatter,
  ScatterChart,
  XAxis,
  YAxis,
} from 'recharts'
import type { ChartData } from '../../api/client'
import { short } from '../../parts/form'
import classes from './ChartView.module.css'
import type { PointAt } from './Points'

type Props = {
  chart: ChartData
  active: PointAt | undefined
  /** Series that are not drawn. */
  hidden?: number[]
  /** The ends of the axis, where it is that of others too. */
  ends?: [number, number] | undefined
  onActive: (p: PointAt | undefined) => void
  onOpen: (at: HTMLElement, p: PointAt) => void
}

const colour = (i: number) => `var(--series-${i % 8})`
const axis = {
  stroke: 'var(--mantine-color-dimmed)',
  tick: { fill: 'var(--mantine-color-dimmed)', fontSize: 11.5 },
  tickLine: false,
}

/** The drawing itself. It is out of the reach of the keyboard, which the points below it serve. */
export default function Drawing(props: Props) {
  return (
    <div className={classes.drawing} aria-hidden onMouseLeave={() => props.onActive(undefined)}>
      <ResponsiveContainer width="100%" height="100%">
        {drawn(props)}
      </ResponsiveContainer>
    </div>
  )
}

function drawn(p: Props) {
  if (p.chart.form === 'pie') return pie(p)
  if (p.chart.form === 'scatter') return scatter(p)
  const data = p.chart.places.map((place, i) => ({
    name: place.name,
    ...Object.fromEntries(p.chart.series.map((s, n) => [`s${n}`, s.values[i] ?? null])),
  }))
  const series = p.chart.series.map((s, n) => [s, n] as const).filter(([, n]) => !p.hidden?.includes(n))
  const common = { data, margin: { top: 6, right: 14, bottom: 0, left: 4 }, accessibilityLayer: false }
  const frame = (
    <>
      <CartesianGrid vertical={false} stroke="var(--line)" />
      <XAxis dataKey="name" {...axis} interval="preserveStartEnd" minTickGap={14} />
      <YAxis
        {...axis}
        axisLine={false}
        width={54}
        tickFormatter={(v: number) => short(v)}
        domain={p.ends ?? (p.chart.form === 'line' ? ['auto', 'auto'] : undefined)}
      />
      {marks(p.chart)}
    </>
  )
  const open = (series: number) => (_: unknown, place: number, e: React.MouseEvent) =>
    p.onOpen(e.currentTarget as unknown as HTMLElement, { place, series })
  const shade = (place: number, series: number) =>
    p.active && (p.active.place !== place || p.active.series !== series) ? 0.45 : 1
  switch (p.chart.form) {
    case 'line':
    case 'area': {
      const dot = (series: number) => (d: { cx?: number; cy?: number; index?: number; value?: unknown }) => {
        const place = d.index ?? 0
        const on = p.active?.place === place && p.active.series === series
        if (d.cx == null || d.cy == null || p.chart.series[series].values[place] == null)
          return <g key={place} />
        const many = p.chart.places.length > 80
        return (
          <circle
            key={place}
            cx={d.cx}
            cy={d.cy}
            r={on ? 5.5 : many ? 4 : 3}
            fill={many && !on ? 'transparent' : colour(series)}
            cursor="pointer"
            onMouseEnter={() => p.onActive({ place, series })}
            onClick={e => p.onOpen(e.currentTarget as unknown as HTMLElement, { place, series })}
          />
        )
      }
      if (p.chart.form === 'line')
        return (
          <LineChart {...common}>
            {frame}
            {series.map(([s, n]) => (
              <Line
                key={s.label}
                dataKey={`s${n}`}
                stroke={colour(n)}
                strokeWidth={2}
                dot={dot(n)}
                activeDot={false}
                isAnimationActive={false}
                connectNulls={false}
              />
            ))}
          </LineChart>
        )
      return (
        <AreaChart {...common}>
          {frame}
          {series.map(([s, n]) => (
            <Area
              key={s.label}
              dataKey={`s${n}`}
              stackId="a"
              stroke={colour(n)}
              fill={colour(n)}
              fillOpacity={0.25}
              dot={dot(n)}
              activeDot={false}
              isAnimationActive={false}
            />
          ))}
        </AreaChart>
      )
    }
  }
  const histogram = p.chart.form === 'histogram'
  const stacked = p.chart.series.length > 1 && p.chart.series.every(s => s.path)
  return (
    <BarChart {...common} stackOffset="sign" barCategoryGap={histogram ? 1 : '18%'}>
      {frame}
      {series.map(([s, n]) => (
        <Bar
          key={s.label}
          dataKey={`s${n}`}
          stackId={stacked ? 'a' : undefined}
          fill={colour(n)}
          isAnimationActive={false}
          cursor="pointer"
          onMouseEnter={(_: unknown, place: number) => p.onActive({ place, series: n })}
          onClick={open(n) as never}
        >
          {data.map((_, place) => (
            <Cell key={place} fillOpacity={shade(place, n)} />
          ))}
        </Bar>
      ))}
      <ReferenceLine y={0} stroke="var(--mantine-color-dimmed)" />
    </BarChart>
  )
}

function marks(chart: ChartData) {
  return chart.marks.map(m => (
    <ReferenceLine
      key={m.label}
      y={m.value}
      ifOverflow="extendDomain"
      stroke="var(--attention)"
      strokeDasharray="5 4"
      label={{ value: m.label, position: 'insideTopRight', fill: 'var(--attention)', fontSize: 11 }}
    />
  ))
}

// The names of narrower slices would lie over each other; they are said when pointed at.
const leastLabelled = 0.03

function pie(p: Props) {
  const series = p.chart.series[0]
  const sum = series.values.reduce<number>((t, v) => t + (v ?? 0), 0)
  const data = p.chart.places.map((place, i) => ({
    name: place.name,
    value: Math.max(series.values[i] ?? 0, 0),
    text: series.texts[i],
  }))
  return (
    <PieChart accessibilityLayer={false}>
      <Pie
        data={data}
        dataKey="value"
        innerRadius="45%"
        outerRadius="82%"
        isAnimationActive={false}
        startAngle={90}
        endAngle={-270}
        stroke="var(--sheet)"
        cursor="pointer"
        label={(d: { name?: string; value?: number; text?: string | null }) =>
          sum > 0 && (d.value ?? 0) / sum > leastLabelled
            ? `${d.name} · ${d.text} · ${(Math.round((1000 * (d.value ?? 0)) / sum) / 10).toFixed(1)} %`
            : ''
        }
        labelLine={{ stroke: 'var(--line)' }}
        onMouseEnter={(_: unknown, place: number) => p.onActive({ place, series: 0 })}
        onClick={
          ((_: unknown, place: number, e: React.MouseEvent) =>
            p.onOpen(e.currentTarget as unknown as HTMLElement, { place, series: 0 })) as never
        }
      >
        {data.map((d, i) => (
          <Cell key={d.name} fill={colour(i)} fillOpacity={p.active && p.active.place !== i ? 0.45 : 1} />
        ))}
      </Pie>
    </PieChart>
  )
}

function scatter(p: Props) {
  const days = p.chart.x.kind === 'date'
  const day = (v: number) => (days ? dayOf(v) : short(v))
  return (
    <ScatterChart margin={{ top: 6, right: 14, bottom: 0, left: 4 }} accessibilityLayer={false}>
      <CartesianGrid vertical={false} stroke="var(--line)" />
      <XAxis type="number" dataKey="x" domain={['dataMin', 'dataMax']} {...axis} tickFormatter={day} />
      <YAxis
        type="number"
        dataKey="y"
        domain={['auto', 'auto']}
        {...axis}
        axisLine={false}
        width={54}
        tickFormatter={(v: number) => short(v)}
      />
      {marks(p.chart)}
      <Scatter
        data={p.chart.points}
        isAnimationActive={false}
        cursor="pointer"
        shape={(d: { cx?: number; cy?: number; payload?: { row: number } }) => {
          const on = p.active && p.chart.points[p.active.place]?.row === d.payload?.row
          return (
            <circle
              cx={d.cx}
              cy={d.cy}
              r={on ? 6 : 3.2}
              fill={beyond(p.chart, d.payload as never) ? 'var(--alert)' : colour(1)}
              fillOpacity={on ? 1 : 0.7}
            />
          )
        }}
        onMouseEnter={(_: unknown, place: number) => p.onActive({ place, series: 0 })}
        onClick={
          ((_: unknown, place: number, e: React.MouseEvent) =>
            p.onOpen(e.currentTarget as unknown as HTMLElement, { place, series: 0 })) as never
        }
      />
    </ScatterChart>
  )
}

/** A point above the highest or below the lowest of several limit lines. */
function beyond(chart: ChartData, point: { y: number }) {
  if (chart.marks.length < 2) return false
  const limits = chart.marks.map(m => m.value)
  return point.y > Math.max(...limits) || point.y < Math.min(...limits)
}

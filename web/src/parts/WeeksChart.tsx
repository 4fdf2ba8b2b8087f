import { Bar, BarChart, CartesianGrid, Legend, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts';

interface Row {
  week: string;
  of: Record<string, number>;
  total: number;
}

/** One hue, from light to dark in the order of the options; none is hatched by its outline. */
const shade = (i: number, of: number): string =>
  `color-mix(in srgb, var(--teal) ${Math.round(((i + 1) / of) * 100)}%, var(--sheet))`;

/** Tickets by week, stacked by the options of a choice. */
export default function WeeksChart({ rows, options }: { rows: Row[]; options: { key: string; label: string }[] }) {
  const used = options.filter((o) => rows.some((row) => row.of[o.key]));
  const data = rows.map((row) => ({
    week: row.week.slice(5),
    ...Object.fromEntries(used.map((o) => [o.label, row.of[o.key] ?? 0])),
  }));
  return (
    <ResponsiveContainer width="100%" height="100%">
      <BarChart data={data} margin={{ top: 6, right: 6, bottom: 0, left: -22 }} barCategoryGap={2}>
        <CartesianGrid vertical={false} stroke="var(--line)" />
        <XAxis dataKey="week" tick={{ fontSize: 11, fill: 'var(--soft)' }} stroke="var(--ink)" tickLine={false} />
        <YAxis allowDecimals={false} tick={{ fontSize: 11, fill: 'var(--soft)' }} axisLine={false} tickLine={false} />
        <Tooltip
          cursor={{ fill: 'var(--faint)' }}
          contentStyle={{ background: 'var(--sheet)', border: '1px solid var(--ink)', borderRadius: 2, fontSize: 13 }}
        />
        <Legend
          iconType="square"
          iconSize={9}
          wrapperStyle={{ fontSize: 12 }}
          itemSorter={null}
          formatter={(label) => <span style={{ color: 'var(--ink)' }}>{label}</span>}
        />
        {used.map((o, i) => (
          <Bar
            key={o.key}
            dataKey={o.label}
            stackId="all"
            fill={o.key === '' ? 'var(--faint)' : shade(i, used.length)}
            stroke="var(--ink)"
            strokeWidth={0.5}
            isAnimationActive={false}
          />
        ))}
      </BarChart>
    </ResponsiveContainer>
  );
}

import type { State } from './spells';
import { weatherNumbers } from './WeatherNumbers';

const WIDE = 5,
  GAP = 2.5,
  TALL = 16;

/** The numbers that have a column on the card. */
const gauged = weatherNumbers
  .flatMap(({ numbers }) => numbers)
  .flatMap(({ name, gauge }) =>
    gauge ? [{ name, word: gauge[0], full: gauge[1], less: gauge[2] as keyof State }] : [],
  );

/** What the columns of a card stand for, in their order. */
export const columnWords = gauged.map(({ word }) => word).join(', ');

/** A spell as columns on a rain-gauge card. */
export function Gauge({ state }: { state: State }) {
  const columns = gauged.map(({ name, full, less }) => (state[name] - (less ? state[less] : 0)) / full);
  return (
    <svg width={columns.length * (WIDE + GAP)} height={TALL + 2} aria-hidden style={{ flexShrink: 0 }}>
      {columns.map((share, k) => {
        const full = Math.max(0.02, Math.min(1, share)) * TALL;
        return (
          <g key={k} transform={`translate(${k * (WIDE + GAP)}, 1)`}>
            <rect width={WIDE} height={TALL} fill="none" stroke="currentColor" strokeOpacity={0.45} strokeWidth={0.8} />
            <rect y={TALL - full} width={WIDE} height={full} fill="currentColor" />
          </g>
        );
      })}
    </svg>
  );
}

/** The same in the course, in the colour of its row. */
export function Mark({ plan }: { plan: State }) {
  return <Gauge state={plan} />;
}

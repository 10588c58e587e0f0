import type { State } from './spells';

const WIDE = 5,
  GAP = 2.5,
  TALL = 16;
/** Deep snow, centimetres: its column is full. */
const DEEP = 40;
/** A gale, metres a second: the column of the wind is full. */
const GALE = 20;

/** A spell as columns on a rain-gauge card: wet, snow, wind, and how far the leaves are off. */
export function Gauge({ state }: { state: State }) {
  const columns = [state.wetness, state.snow / DEEP, state.wind / GALE, offLeaf(state.season)];
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

/** Share of the year's leaves that are off: none in high summer, all in deep winter. */
const offLeaf = (season: number) => 0.5 + 0.5 * Math.cos((season / 12) * 2 * Math.PI);

import type { State } from './spells';

const WIDE = 5,
  GAP = 2.5,
  TALL = 16;
/** Deep snow, centimetres: its column is full. */
const DEEP = 40;
/** So much standing water, millimetres, fills its column. */
const FLOOD = 60;

/** A spell as columns on a rain-gauge card: wet, standing water, snow, frost, dust. */
export function Gauge({ state }: { state: State }) {
  const columns = [state.wetness, state.standing / FLOOD, (state.snow - state.melted) / DEEP, state.frost, state.dust];
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

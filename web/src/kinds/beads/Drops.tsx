import type { PlanOf } from '../../api/client';

/** Droplets in a row: as many and as wide as these are. */
export function Drops({ plan }: { plan: PlanOf<'beads'> }) {
  const wide = 2 + 3 * Math.min(1, Math.sqrt(plan.size / 4));
  return (
    <svg width={36} height={14} aria-hidden style={{ flex: 'none' }}>
      {[0, 1, 2].map((k) => (
        <path
          key={k}
          d={`M ${6 + 12 * k - wide} 12 A ${wide} ${wide * (0.7 + 0.3 * k)} 0 0 1 ${6 + 12 * k + wide} 12 Z`}
          fill={k === 1 ? 'currentColor' : 'none'}
          stroke="currentColor"
        />
      ))}
    </svg>
  );
}

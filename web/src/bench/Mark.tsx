import { ink } from '../theme';

/** The sign of Cenote: a round shaft with water in it. */
export function Mark({ size = 26 }: { size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 32 32" role="img" aria-label="Cenote">
      <circle cx="16" cy="16" r="13.5" fill="none" stroke={ink.ink} strokeWidth="2" />
      <path d="M4.2 18c4-4 7.6 1.6 11.8-1s7.8-1.4 11.8 1a12 12 0 0 1-23.600 0z" fill={ink.water} />
    </svg>
  );
}

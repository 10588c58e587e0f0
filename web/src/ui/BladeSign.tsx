/** The sign of a grass that can be shaped. */
export function BladeSign({ size = 15 }: { size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 16 16" fill="none" stroke="currentColor" strokeWidth="1.2" aria-hidden>
      <path d="M8 15C7.500 9 8.500 5 11.500 1.500M8 15C7.500 10 6.500 7 3 4.500M8 15c.5-4 2-6 5.500-7.500" />
    </svg>
  );
}

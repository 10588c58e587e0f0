import { useRef } from 'react';

/** A colour: shown while it is sought, kept once another was found. */
export function Tint({
  label = 'tint',
  value,
  onDraft,
  onCommit,
}: {
  label?: string;
  value: string;
  onDraft: (value: string) => void;
  onCommit: (value: string) => void;
}) {
  const before = useRef(value);
  return (
    <label style={{ fontSize: 12.5, display: 'flex', gap: 8, alignItems: 'center', padding: '2px 0' }}>
      <span style={{ flex: 1 }}>{label}</span>
      <input
        type="color"
        value={value}
        onFocus={() => {
          before.current = value;
        }}
        onChange={(e) => onDraft(e.target.value)}
        onBlur={(e) => e.target.value !== before.current && onCommit(e.target.value)}
      />
    </label>
  );
}

import { Box, InputBase, Tooltip, Typography } from '@mui/material';
import { useEffect, useId, useRef, useState, type PointerEvent } from 'react';
import { setting, type Setting } from '../api/settings';
import { ink, mono } from '../theme';
import { memoControl } from './memoControl';

interface Props {
  /** Model and field the setting is declared under; unit, range and help come from there. */
  model: string;
  field: string;
  label: string;
  value: number;
  /** While it is being dragged. */
  onDraft?: (value: number) => void;
  onCommit: (value: number) => void;
  disabled?: boolean;
  /** Instead of the declared stretch for dragging. */
  slider?: { min: number; max: number; curve?: number };
  /** What is known of it, where no model declares it. */
  declared?: Setting;
  /** What nought means, where it is no amount: said instead of it. */
  zero?: string;
  /** Without the column for the unit, where space is short. */
  bare?: boolean;
}

const shown = (value: number, step: number) => {
  const digits = step >= 1 ? 1 : step >= 0.05 ? 2 : 3;
  return String(Number(value.toFixed(digits)));
};

/** A number with its unit: type it, step it with the arrow keys, or drag the line beneath it. */
export const Field = memoControl<Props>(function Field({
  model,
  field,
  label,
  value,
  onDraft,
  onCommit,
  disabled,
  slider: asked,
  declared: given,
  zero,
  bare,
}) {
  const id = useId();
  const declared = given ?? setting(model, field);
  const slider = asked ?? declared.slider;
  const [text, setText] = useState<string | null>(null);
  const [trouble, setTrouble] = useState('');
  const low = slider?.min ?? Math.max(declared.min, -1000);
  const high = slider?.max ?? Math.min(declared.max, 1000);
  const curve = slider?.curve ?? 1;
  const track = useRef<HTMLDivElement>(null);
  const latest = useRef(value);
  useEffect(() => {
    latest.current = value;
  }, [value]);

  const clean = (v: number) => {
    const bounded = Math.min(declared.max, Math.max(declared.min, v));
    return declared.whole ? Math.round(bounded) : bounded;
  };
  const finish = () => {
    if (text === null) return;
    const v = Number(text.replace(',', '.').replaceAll(/[\s\u2009]/g, ''));
    if (!Number.isFinite(v) || text.trim() === '') setTrouble('not a number');
    else if (v < declared.min || v > declared.max) setTrouble(`${declared.min} to ${declared.max}`);
    else {
      setTrouble('');
      setText(null);
      if (clean(v) !== value) onCommit(clean(v));
      return;
    }
    setText(null);
    window.setTimeout(() => setTrouble(''), 2500);
  };
  const at = (event: PointerEvent) => {
    const box = track.current!.getBoundingClientRect();
    const t = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width)) ** curve;
    const raw = low + t * (high - low);
    const step = declared.whole ? 1 : Math.max((high - low) / 1000, 1e-4);
    return clean(Number((Math.round(raw / step) * step).toFixed(4)));
  };
  const drag = (event: PointerEvent<HTMLDivElement>) => {
    if (disabled) return;
    event.preventDefault();
    event.currentTarget.setPointerCapture(event.pointerId);
    latest.current = at(event);
    (onDraft ?? (() => undefined))(latest.current);
  };
  const move = (event: PointerEvent<HTMLDivElement>) => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
    latest.current = at(event);
    (onDraft ?? (() => undefined))(latest.current);
  };
  const release = (event: PointerEvent<HTMLDivElement>) => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId)) return;
    event.currentTarget.releasePointerCapture(event.pointerId);
    onCommit(latest.current);
  };
  const share = Math.min(1, Math.max(0, (value - low) / (high - low || 1))) ** (1 / curve);

  return (
    <Tooltip title={trouble ? `Allowed: ${trouble}` : declared.help} placement="right">
      <Box sx={{ py: 0.25 }}>
        <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1 }}>
          <Typography component="label" htmlFor={id} sx={{ flex: 1, fontSize: 12.5 }}>
            {label}
          </Typography>
          <InputBase
            id={id}
            value={text ?? (zero && value === 0 ? zero : shown(value, declared.step))}
            disabled={disabled}
            onFocus={(e) => e.target.select()}
            onChange={(e) => setText(e.target.value)}
            onBlur={finish}
            onKeyDown={(e) => {
              if (e.key === 'Enter') finish();
              if (e.key === 'Escape') setText(null);
              if (e.key === 'ArrowUp' || e.key === 'ArrowDown') {
                e.preventDefault();
                const by = declared.step * (e.shiftKey ? 10 : 1) * (e.key === 'ArrowUp' ? 1 : -1);
                onCommit(clean(Number((value + by).toFixed(4))));
              }
            }}
            error={Boolean(trouble)}
            inputProps={{
              'aria-label': `${label}${declared.unit ? `, ${declared.unit}` : ''}`,
              style: {
                textAlign: 'right',
                fontFamily: mono,
                fontSize: 12,
                width: 62,
                padding: '1px 3px',
                color: trouble ? ink.brick : undefined,
                borderBottom: `1px solid ${trouble ? ink.brick : 'transparent'}`,
              },
            }}
          />
          {!bare && (
            <Typography
              sx={{ fontFamily: mono, fontSize: 11, color: 'text.secondary', width: 42, whiteSpace: 'nowrap' }}
            >
              {declared.unit}
            </Typography>
          )}
        </Box>
        {slider && (
          <Box
            ref={track}
            role="presentation"
            data-track={label}
            onPointerDown={drag}
            onPointerMove={move}
            onPointerUp={release}
            sx={{
              height: 12,
              cursor: disabled ? 'default' : 'ew-resize',
              position: 'relative',
              touchAction: 'none',
              mr: '50px',
            }}
          >
            <Box sx={{ position: 'absolute', top: 5, left: 0, right: 0, height: '1px', bgcolor: ink.line }} />
            <Box
              sx={{
                position: 'absolute',
                top: 4,
                left: 0,
                width: `${share * 100}%`,
                height: '3px',
                bgcolor: ink.water,
              }}
            />
            <Box
              sx={{
                position: 'absolute',
                top: 1,
                left: `calc(${share * 100}% - 1px)`,
                width: '2px',
                height: 9,
                bgcolor: ink.ink,
              }}
            />
          </Box>
        )}
      </Box>
    </Tooltip>
  );
});

import type { Gate, Rule } from '../api/client';
import { measures } from '../api/measures';

/** The trapezoid's answer to a value, for drawing only; the core decides. */
export function response(gate: Gate, value: number): number {
  if (value < gate.rise_start || value > gate.fall_end) return 0;
  if (value < gate.rise_end) return (value - gate.rise_start) / (gate.rise_end - gate.rise_start);
  if (value > gate.fall_start) return (gate.fall_end - value) / (gate.fall_end - gate.fall_start);
  return 1;
}

export const number = (v: number, unit: string) =>
  unit === '°' ? `${Math.round(v)}°` : unit ? `${Number(v.toFixed(2))} ${unit}` : `${Math.round(v * 100)} %`;

/** The gate read out loud. */
export function readOut(rule: Rule, verb: string, span: [number, number]): string {
  const { gate, measure } = rule;
  const { unit, noun, title } = measures[measure];
  const n = (v: number) => number(v, unit);
  const open = gate.rise_end <= span[0] + 1e-6;
  const endless = gate.fall_start >= span[1] - 1e-6;
  const softly = (full: number, none: number, word: string) =>
    Math.abs(full - none) < 1e-6 ? '' : `, none ${word} ${n(none)}`;
  if (open && endless) return `${verb} at any ${title}`;
  if (open) return `${verb} on ${noun} up to ${n(gate.fall_start)}${softly(gate.fall_start, gate.fall_end, 'past')}`;
  if (endless) return `${verb} on ${noun} from ${n(gate.rise_end)}${softly(gate.rise_end, gate.rise_start, 'below')}`;
  return `${verb} on ${noun} of ${n(gate.rise_end)} to ${n(gate.fall_start)}, none outside ${n(gate.rise_start)} to ${n(gate.fall_end)}`;
}

export const gateFields = ['rise_start', 'rise_end', 'fall_start', 'fall_end'] as const;
export type GateField = (typeof gateFields)[number];

/** Move one handle; the others give way so that the four stay in order. */
export function moved(gate: Gate, field: GateField, value: number): Gate {
  const at = gateFields.indexOf(field);
  const next = { ...gate };
  gateFields.forEach((name, k) => {
    if (k < at) next[name] = Math.min(gate[name], value);
    else if (k > at) next[name] = Math.max(gate[name], value);
    else next[name] = value;
  });
  return next;
}

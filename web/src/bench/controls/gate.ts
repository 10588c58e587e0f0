import type { Gate, Rule } from '../../api/client';

export type Measure = Rule['measure'];

/** The trapezoid's answer to a value, for drawing only; the core decides. */
export function response(gate: Gate, value: number): number {
  if (value < gate.rise_start || value > gate.fall_end) return 0;
  if (value < gate.rise_end) return (value - gate.rise_start) / (gate.rise_end - gate.rise_start);
  if (value > gate.fall_start) return (gate.fall_end - value) / (gate.fall_end - gate.fall_start);
  return 1;
}

interface About {
  title: string;
  unit: '°' | 'm' | '';
  about: string;
  /** What the read-out calls its values. */
  noun: string;
  model: string;
  /** A gate to start from. */
  gate: [number, number, number, number];
  only?: 'drift';
}

/** Every measure: how it is named, its unit, and where a new rule starts. In the order of the menu. */
export const measures: Record<Measure, About> = {
  slope: { title: 'slope', unit: '°', about: '0° level, 90° upright', noun: 'slopes', model: 'SlopeRule', gate: [0, 0, 35, 50] },
  aspect: { title: 'aspect', unit: '°', about: 'how far it faces away from a compass direction', noun: 'aspects', model: 'AspectRule', gate: [0, 0, 60, 110] },
  height: { title: 'height', unit: 'm', about: 'above the site’s zero or the foot of the piece', noun: 'heights', model: 'HeightRule', gate: [0, 0.5, 50, 50] },
  hollow: { title: 'hollow', unit: 'm', about: 'against the ground around: below 0 hollows, above 0 ridges', noun: 'heights against the ground around', model: 'HollowRule', gate: [-50, -50, 0, 0.2] },
  shelter: { title: 'shelter', unit: '', about: '0 open, 1 closed in by what stands near', noun: 'shelter', model: 'ShelterRule', gate: [0.05, 0.3, 1, 1] },
  sky: { title: 'sky', unit: '', about: '1 in the open, 0 under a roof', noun: 'open sky', model: 'SkyRule', gate: [0.3, 0.6, 1, 1] },
  noise: { title: 'noise', unit: '', about: 'seeded patches', noun: 'noise', model: 'NoiseRule', gate: [0.4, 0.6, 1, 1] },
  near: { title: 'near pieces', unit: 'm', about: 'distance from pieces', noun: 'distances from pieces', model: 'NearRule', gate: [0, 0, 0.6, 1.5] },
  line: { title: 'near a line', unit: 'm', about: 'distance from a line drawn in the plate', noun: 'distances from the line', model: 'LineRule', gate: [0, 0, 1, 2] },
  path: { title: 'near a path', unit: 'm', about: 'distance from paths and ditches of the ground, below 0 on them', noun: 'distances from the path', model: 'PathRule', gate: [0, 0.2, 1.5, 3] },
  water: { title: 'near water', unit: 'm', about: 'distance from a water line, below 0 under water', noun: 'distances from water', model: 'WaterRule', gate: [0, 0.2, 2, 4] },
  edge: { title: 'edge', unit: 'm', about: 'distance from the edge of its surfaces', noun: 'distances from the edge', model: 'EdgeRule', gate: [0.5, 2, 1000, 1000] },
  stems: { title: 'stems', unit: 'm', about: 'distance from stems of larger drifts', noun: 'distances from stems', model: 'StemsRule', gate: [0.3, 0.8, 1000, 1000] },
  crown: { title: 'under crowns', unit: '', about: '0 in the open, 1 at a stem', noun: 'cover of crowns', model: 'CrownRule', gate: [0.05, 0.3, 1, 1] },
  camera: { title: 'camera', unit: 'm', about: 'distance from the stations that see it or its shadow', noun: 'distances from the camera', model: 'CameraRule', gate: [0, 0, 40, 60], only: 'drift' },
  image: { title: 'image', unit: '', about: 'brightness of an image laid over the ground', noun: 'brightness', model: 'ImageRule', gate: [0.4, 0.6, 1, 1] },
  painted: { title: 'painted', unit: '', about: 'only where painted by hand', noun: 'paint', model: 'PaintedRule', gate: [0, 1, 1, 1] },
};

export const number = (v: number, unit: string) => (unit === '°' ? `${Math.round(v)}°` : unit === 'm' ? `${Number(v.toFixed(2))} m` : `${Math.round(v * 100)} %`);

/** The gate read out loud. */
export function readOut(rule: Rule, verb: string, span: [number, number]): string {
  const { gate, measure } = rule;
  const { unit, noun, title } = measures[measure];
  const n = (v: number) => number(v, unit);
  const open = gate.rise_end <= span[0] + 1e-6;
  const endless = gate.fall_start >= span[1] - 1e-6;
  const softly = (full: number, none: number, word: string) => (Math.abs(full - none) < 1e-6 ? '' : `, none ${word} ${n(none)}`);
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

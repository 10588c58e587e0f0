import type { ItemPlan, Kind, PlanOf } from '../api/client';
import { itemsOf, type Item } from '../state/site';

const base = (name: string) => ({ name, note: '', visible: true, locked: false });

/** A first name that is not taken yet. */
export function freeName(items: Record<string, Item>, wanted: string): string {
  const taken = new Set(Object.values(items).map((i) => i.plan.name));
  let name = wanted;
  for (let n = 2; taken.has(name); n++) name = `${wanted} ${n}`;
  return name;
}

const top = (items: Record<string, Item>, kind: 'patina' | 'decal' | 'station') =>
  Math.max(0, ...[...itemsOf(items, 'patina'), ...itemsOf(items, 'decal'), ...itemsOf(items, 'station')].filter((i) => i.plan.kind === kind).map((i) => i.plan.order)) + 1;

export function freshPiece(items: Record<string, Item>, asset: string, title: string, position: [number, number, number], turn: number): PlanOf<'piece'> {
  return { ...base(freeName(items, title.toLowerCase())), kind: 'piece', asset, position, turn, tilt: 0, roll: 0, size: 1, group: '', materials: {} };
}

export function freshDecal(items: Record<string, Item>, picture: string, title: string, position: [number, number, number], facing: [number, number, number], owner: string): PlanOf<'decal'> {
  return {
    ...base(freeName(items, title.toLowerCase())), kind: 'decal', picture, position, facing, turn: 0, width: 1, height: 1, depth: 0.4, angle: 60, soft: 15,
    opacity: 1, tint: '#ffffff', receivers: [owner], order: top(items, 'decal'),
  };
}

export function freshStation(items: Record<string, Item>, position: number[], target: number[], lens: number): PlanOf<'station'> {
  const order = top(items, 'station');
  return { ...base(freeName(items, `station ${order}`)), kind: 'station', position: position as [number, number, number], target: target as [number, number, number], lens, order };
}

/** A new item with settings that show something at once. */
export function freshPlan(kind: Kind, items: Record<string, Item>): ItemPlan | null {
  const open = { active: true, strength: 1 };
  if (kind === 'drift')
    return {
      ...base(freeName(items, 'new drift')), kind, tier: 'cover', assets: [{ asset: 'grass_mid', weight: 1 }], surfaces: ['ground/ground'], density: 4, spacing: 0.25,
      headroom: 0.3, seed: 1, rules: [{ ...open, measure: 'slope', gate: { rise_start: 0, rise_end: 0, fall_start: 30, fall_end: 45 } }],
      variety: { size_min: 0.7, size_max: 1.3, size_bias: 0, turn: 360, lean: 8, sink_min: 0, sink_max: 0.02, follow: 0.3, tint: 0.25 },
    };
  if (kind === 'patina')
    return {
      ...base(freeName(items, 'new patina')), kind, amount: 1, order: top(items, 'patina'), uses: [],
      finish: { material: 'moss', tint: '#ffffff', scale: 1, variation: 0.25, variation_size: 0.8, roughness: 1, relief: 1, break_up: 0.5, stain: 0 },
      rules: [
        { ...open, measure: 'slope', gate: { rise_start: 0, rise_end: 0, fall_start: 55, fall_end: 95 } },
        { ...open, measure: 'noise', gate: { rise_start: 0.4, rise_end: 0.6, fall_start: 1, fall_end: 1 }, size: 1, detail: 4, seed: 1 },
      ],
    };
  return null;
}

import { create } from 'zustand';
import type { Kind } from '../api/client';

export type Step = 'Ground' | 'Pieces' | 'Drifts' | 'Patinas' | 'Decals' | 'Air' | 'Proofs';
export type Tool = 'look' | 'more' | 'less' | 'place';
export type View = 'lit' | 'colour' | 'clay' | 'mask';

export const steps: { step: Step; kind: Kind | null; key: string }[] = [
  { step: 'Ground', kind: 'ground', key: '1' },
  { step: 'Pieces', kind: 'piece', key: '2' },
  { step: 'Drifts', kind: 'drift', key: '3' },
  { step: 'Patinas', kind: 'patina', key: '4' },
  { step: 'Decals', kind: 'decal', key: '5' },
  { step: 'Air', kind: 'light', key: '7' },
  { step: 'Proofs', kind: null, key: '8' },
];

export interface Brush {
  radius: number;
  strength: number;
  falloff: number;
}

interface BenchState {
  step: Step;
  tool: Tool;
  view: View;
  brush: Brush;
  /** What a click sets down: a kit asset or a decal picture. */
  armed: { id: string; title: string } | null;
  station: string | null;
  sheetOpen: boolean;
  hovered: { text: string } | null;
  counts: { things: number; triangles: number; drawn: number; ms: number };
  proof: string | null;
  set: (change: Partial<Omit<BenchState, 'set'>>) => void;
}

/** What the person at the bench is doing; nothing of it is saved. */
export const useBench = create<BenchState>((set) => ({
  step: 'Drifts', tool: 'look', view: 'lit', brush: { radius: 1, strength: 0.8, falloff: 0.6 }, armed: null, station: null,
  sheetOpen: true, hovered: null, counts: { things: 0, triangles: 0, drawn: 0, ms: 0 }, proof: null, set,
}));

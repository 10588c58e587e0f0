import { create } from 'zustand';
import { useShallow } from 'zustand/react/shallow';
import type { Schemas } from '../api/client';
import type { Packet } from '../api/packet';
import type { View } from '../plate/views';

export type Step = 'Ground' | 'Pieces' | 'Drifts' | 'Patinas' | 'Decals' | 'Water' | 'Air' | 'Proofs';
export type Sculpt = 'raise' | 'lower' | 'smooth' | 'flatten' | 'roughen' | 'erode';
export type Brushing = 'more' | 'less' | 'erase' | 'lay' | Sculpt;
export type Tool = 'look' | Brushing | 'place' | 'draw' | 'pick' | 'lasso';
export type { View };

/** Left, top, right and bottom, 0 to 1 of a picture. */
export type Box4 = [number, number, number, number];
export type P3 = [number, number, number];

export const brushing = (tool: Tool): tool is Brushing =>
  ['more', 'less', 'erase', 'lay', 'raise', 'lower', 'smooth', 'flatten', 'roughen', 'erode'].includes(tool);

export interface Brush {
  radius: number;
  strength: number;
  falloff: number;
  /** Metres a sculpting stroke moves the ground by. */
  amount: number;
}

/** A line being drawn in the plate, and what it is for. */
export interface Drawing {
  what: string;
  points: P3[];
  done: (points: P3[]) => void;
}

/** Single instances of a drift that are picked. */
export interface Picked {
  drift: string;
  identities: string[];
  places: P3[];
}

interface BenchState {
  step: Step;
  tool: Tool;
  view: View;
  brush: Brush;
  /** What a stroke goes to when it is not the selected item: a surface of the ground. */
  paintOn: string | null;
  /** A part of the selected item whose mask is shown; none: that of the item itself. */
  maskOf: string | null;
  /** What a click sets down: kit assets (in turn) or a decal picture. */
  armed: { id: string; title: string }[] | null;
  drawing: Drawing | null;
  picked: Picked | null;
  section: { start: [number, number]; end: [number, number]; width: number } | null;
  why: { x: number; y: number; verdicts: Schemas['VerdictOut'][] } | null;
  /** Snags of the list whose places are marked. */
  marked: P3[];
  spot: { owner: string; point: P3 } | null;
  station: string | null;
  /** The group whose pieces are held together; none: each by itself. */
  together: string;
  sheetOpen: boolean;
  windMoves: boolean;
  /** The picture of the site stands; what costs the server more is asked for after that. */
  ready: boolean;
  /** Something saved is still on its way into the picture. */
  arriving: boolean;
  /** The picture is not finished, why, and what asks for it again. */
  stalled: { why: string; again: () => void } | null;
  hovered: { text: string } | null;
  counts: { things: number; triangles: number; drawn: number; ms: number };
  /** Things a square metre at which the dots of the density view are full. */
  dots: number;
  /** Patinas that are not drawn on some surfaces, because too many others lie on top of them there. */
  undrawn: Record<string, string[]>;
  /** The spell that is shown beside the one that shows. */
  beside: string | null;
  proof: string | null;
  /** Size of the next proof, a place in the list of sizes. */
  proofSize: number;
  /** The part of the picture that the next proof makes, or all of it. */
  frame: Box4 | null;
  /** A frame is about to be drawn in the plate. */
  framing: boolean;
  /** The finest meshes of a grass while its settings are dragged. */
  tufts: { item: string; levels: Packet[] } | null;
  set: (change: Partial<Omit<BenchState, 'set'>>) => void;
}

/** What the person at the bench is doing; nothing of it is saved. */
export const useBench = create<BenchState>((set) => ({
  step: 'Drifts',
  tool: 'look',
  view: 'lit',
  brush: { radius: 1, strength: 0.8, falloff: 0.6, amount: 0.3 },
  paintOn: null,
  maskOf: null,
  armed: null,
  drawing: null,
  picked: null,
  section: null,
  why: null,
  marked: [],
  spot: null,
  station: null,
  together: '',
  sheetOpen: true,
  windMoves: false,
  ready: false,
  arriving: false,
  stalled: null,
  hovered: null,
  counts: { things: 0, triangles: 0, drawn: 0, ms: 0 },
  dots: 0,
  undrawn: {},
  beside: null,
  proof: null,
  proofSize: 1,
  frame: null,
  framing: false,
  tufts: null,
  set,
}));

/** Put down whatever is in hand. */
export const atRest = { tool: 'look' as Tool, armed: null, drawing: null, picked: null, paintOn: null, framing: false };

/** Some parts of the bench's state; what shows them is drawn again only when one of them changes. */
export function useBenchParts<K extends keyof BenchState>(...names: K[]): Pick<BenchState, K> {
  return useBench(
    useShallow((state) => Object.fromEntries(names.map((name) => [name, state[name]])) as Pick<BenchState, K>),
  );
}

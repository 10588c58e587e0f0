import type { ComponentType } from 'react';
import type * as THREE from 'three';
import type { Effect, Kind, Manifest, PlanOf } from '../api/client';
import type { Packet } from '../api/packet';
import type { Hit } from '../plate/Picker';
import type { PartOf } from '../plate/PlateContext';
import type { PlateScene } from '../plate/PlateScene';
import type { Step } from '../state/bench';
import type { Edit, Item } from '../state/site';

export type Grip = 'move' | 'turn' | 'size';

/** Where handles are: one to move, and those of the others that there are. */
export type Places = Partial<Record<Grip, THREE.Vector3>> & { move: THREE.Vector3 };

/** Handles on an item in the plate: where they are, and what dragging one or pressing an arrow on it makes of the plan. */
export interface Handling<P> {
  places(plate: PlateScene, key: string, plan: P): Places;
  /** `reach`: how far the handle for the size was from the middle when it was taken. */
  drag(
    plate: PlateScene,
    key: string,
    start: P,
    grip: Grip,
    at: { clientX: number; clientY: number },
    reach: number,
  ): P | null;
  step(plate: PlateScene, plan: P, grip: Grip, arrow: [number, number]): P;
  /** What becomes of others that go along with it. */
  along?(plate: PlateScene, key: string, before: P, after: P): Edit[];
  /** Corners of an outline drawn with them. */
  outline?(plan: P): THREE.Vector3[];
}

/** What a small picture of an item is drawn from. */
export interface SwatchOf {
  asset?: string;
  material?: string;
  /** Behind a picture with holes. */
  paper?: string;
  tint?: string;
}

/** One thing of the kit where it was set down by a click. */
export interface Landing {
  thing: { id: string; title: string };
  hit: Hit;
  /** Degrees, and times its own size, as chosen before the click. */
  turn: number;
  size: number;
}

/** What the step of a kind can ask of the bench while nothing is selected. */
export interface Offered {
  /** Open an item's sheet, with its step. */
  openItem: (key: string) => void;
  /** Open another step. */
  open: (step: Step) => void;
  /** Add an item with the settings it starts with, and select it. */
  add: (kind: Kind) => void;
}

/** What there is to a kind of item at the bench; each folder here holds one, found by being here. */
export interface KindView<K extends Kind = Kind> {
  kind: K;
  /** The step of the course it belongs to, with its number there. */
  step?: { name: Step; key: string };
  /** Or it is listed in the step of another kind, after those. */
  joins?: Step;
  /** A site has one, under this key; it is not listed, and never deleted. */
  single?: string;
  sheet?: ComponentType<{ itemKey: string }>;
  /** What the open step shows while nothing is selected. */
  offer?: ComponentType<Offered>;
  /** A new one with settings that show something at once. Kinds without it are set down in the plate. */
  fresh?: (items: Record<string, Item>) => PlanOf<K>;
  /** In the course: order, what is said at the right, the small picture; whether one lies over the other. */
  order?: (a: PlanOf<K>, b: PlanOf<K>) => number;
  amount?: (plan: PlanOf<K>, effect: Effect | undefined) => string;
  swatch?: (plan: PlanOf<K>) => SwatchOf;
  /** Drawn in place of a swatch where an item is no thing and no surface. */
  mark?: ComponentType<{ plan: PlanOf<K> }>;
  stacked?: boolean;
  /** The group it is listed under, if it is in one. */
  group?: (plan: PlanOf<K>) => string;
  /** Clicking a selected one again selects none. */
  toggles?: boolean;
  /** What it is called beside its name. */
  title?: (plan: PlanOf<K>) => string;
  /** Brush strokes go to it. */
  painted?: boolean;
  /** Single things of it are set down, picked and moved by hand. */
  scattered?: boolean;
  remove?: (key: string) => void;
  /** Why it is not hidden by itself. */
  notHidden?: string;
  /** It can be changed while all else in the picture stays as it is. */
  alone?: boolean;
  /** Show where it may be as a mask, where that is no cover the plate has anyway. */
  showMask?: (plate: PlateScene, key: string, plan: PlanOf<K>, manifest: Manifest) => Promise<void>;
  handles?: Handling<PlanOf<K>>;
  /** Its parts of the plate. */
  parts?: PartOf[];
  /** What a click with a thing of the kit in hand makes while the kind's step is open. */
  setDown?: (plate: PlateScene, landing: Landing) => void;
  /** What is set down has no body of its own: it is not shown beforehand. */
  flat?: boolean;
  /** The item of this kind under a point of the screen, where it is none of the surfaces; metres from the eye. */
  under?: (plate: PlateScene, x: number, y: number) => { key: string; distance: number } | null;
  /** What the plate shows of a draft by itself; false if that is all there is to it. */
  draft?: (plate: PlateScene, key: string, plan: PlanOf<K>) => boolean;
  /** Show the server's preview of a draft. */
  show?: (plate: PlateScene, key: string, plan: PlanOf<K>, packet: Packet) => Promise<void> | void;
}

/** Declare a kind. */
export const kindView = <K extends Kind>(view: KindView<K>): KindView => view as unknown as KindView;

import type * as THREE from 'three';
import type { Eye } from './Eye';
import type { Frames } from './Frames';
import type { Machine } from './machine';
import type { PlatePart, Plans } from './PlatePart';
import type { Stage } from './Stage';
import type { OwnerView } from './surfaces/owners';

/** What the plate asks of the page it stands in. */
export interface PlateHost {
  /** Tell whoever works here something. */
  say(sentence: string): void;
  /** Patinas that are not drawn, with the surfaces they are missing on. */
  undrawn(found: Record<string, string[]>): void;
  /** The open site, and its items as they were saved last. */
  site(): { id: string; plans: Plans };
}

/** What parts of the plate know of the rest of it. */
export interface PlateContext {
  readonly machine: Machine;
  readonly eye: Eye;
  readonly stage: Stage;
  readonly frames: Frames;
  readonly host: PlateHost;
  /** Ground and pieces by their keys. */
  readonly owners: ReadonlyMap<string, OwnerView>;
  groundMesh(): THREE.Mesh | null;
}

/** Makes a part of the plate. */
export type PartOf<T extends PlatePart = PlatePart> = new (plate: PlateContext) => T;

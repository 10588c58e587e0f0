import type * as THREE from 'three';
import type { Asset, ItemPlan, Manifest } from '../api/client';
import type { Spend } from './machine';
import type { View } from './views';

export type Plans = Record<string, ItemPlan>;

/** How the site is seen. */
export interface Seen {
  view: View;
  /** The patina whose cover the mask shows. */
  maskOf: string | null;
  /** The item being worked on. */
  subject: string;
}

/** What a kind of item shows in the plate: fetched by the manifest, drawn in the scene, let go at the end. */
export interface PlatePart {
  /** It lies on surfaces, or lights them: it is fetched once those have come. */
  readonly upon?: boolean;
  /** Takes what can be set down or scattered on this site. */
  setAssets?(list: Asset[]): void;
  /** Does all of the picture look different with these plans? */
  anew?(plans: Plans): boolean;
  /** Ask for what will be needed, before anything has come that tells so. */
  ahead?(manifest: Manifest, plans: Plans): Promise<unknown>[];
  /** Fetch and show what has changed since the last manifest. */
  sync(manifest: Manifest, plans: Plans): Promise<void>;
  /** All parts are in step with the manifest. */
  synced?(): Promise<void>;
  /** What stands in the scene by itself. */
  groups?(): THREE.Object3D[];
  /** What changes with an item while all else stays as it is. */
  changing?(key: string): THREE.Object3D[];
  /** What is drawn again with whatever changes. */
  overlays?(): THREE.Object3D[];
  /** Choose what is drawn from where the eye is; returns how much that is. */
  arrange?(spend: Spend, quick: boolean, seen: Seen): { things: number; triangles: number };
  /** The same for some groups alone, while they follow a handle. */
  follow?(groups: Set<THREE.Object3D>, seen: Seen): void;
  /** Finer versions of what stands near: is one still on its way? */
  finer?(): boolean;
  applyView?(seen: Seen): void;
  dispose(): void;
}

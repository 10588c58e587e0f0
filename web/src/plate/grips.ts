import * as THREE from 'three';
import type { PlateScene } from './PlateScene';

/** What one press of an arrow key does: metres, degrees, share. */
export const MOVE_STEP = 0.05,
  TURN_STEP = 1,
  SIZE_STEP = 0.02;

export const V = (p: readonly number[]) => new THREE.Vector3(p[0], p[1], p[2]);

export const tidy = (v: number, digits = 3) => Number(v.toFixed(digits));

export const tidyPlace = (p: THREE.Vector3): [number, number, number] => [tidy(p.x), tidy(p.y), tidy(p.z)];

/** Where the pointer's line of sight meets a plane. */
export function onPlane(
  plate: PlateScene,
  at: { clientX: number; clientY: number },
  plane: THREE.Plane,
): THREE.Vector3 | null {
  return plate.picker.rayAt(at.clientX, at.clientY).intersectPlane(plane, new THREE.Vector3());
}

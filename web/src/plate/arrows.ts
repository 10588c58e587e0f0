import type { KeyboardEvent } from 'react';
import * as THREE from 'three';
import type { PlateScene } from './PlateScene';

const ways: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

/** Steps right and up of an arrow key, ten times as large with Shift; null for other keys. The key then does nothing else. */
export function arrowOf(event: KeyboardEvent): [number, number] | null {
  const way = ways[event.key];
  if (!way) return null;
  event.preventDefault();
  event.stopPropagation();
  const times = event.shiftKey ? 10 : 1;
  return [way[0] * times, way[1] * times];
}

/** A step over the ground as it is seen: right is right in the picture, up is away from the eye. */
export function overGround(scene: PlateScene, [right, away]: [number, number], metres: number): THREE.Vector3 {
  const ahead = scene.eye.camera.getWorldDirection(new THREE.Vector3()).setY(0).normalize();
  const side = new THREE.Vector3(-ahead.z, 0, ahead.x);
  return side.multiplyScalar(right * metres).addScaledVector(ahead, away * metres);
}

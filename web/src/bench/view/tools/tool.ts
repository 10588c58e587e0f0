import * as THREE from 'three';
import type { P3 } from '../../../state/bench';
import type { PlateScene } from '../../../plate/PlateScene';

/** What a tool does with the pointer in the plate. */
export interface PlateTool {
  cursor: string;
  /** Does dragging with the left button belong to the tool instead of turning the view? */
  holdsLeft: boolean;
  down?: (event: PointerEvent) => void;
  move?: (event: PointerEvent) => void;
  up?: (event: PointerEvent) => void;
  double?: (event: MouseEvent) => void;
  leave?: () => void;
  key?: (key: string) => void;
  dispose?: () => void;
}

export interface ToolContext {
  scene: PlateScene;
  canvas: HTMLCanvasElement;
}

export const rounded = (v: THREE.Vector3): P3 => [
  Number(v.x.toFixed(3)),
  Number(v.y.toFixed(3)),
  Number(v.z.toFixed(3)),
];

import * as THREE from 'three';
import type { PlanOf } from '../../api/client';
import { MOVE_STEP, onPlane, SIZE_STEP, tidy, tidyPlace, TURN_STEP, V } from '../../plate/grips';
import type { PlateScene } from '../../plate/PlateScene';
import type { Grip, Handling } from '../kind';

type Plan = PlanOf<'decal'>;
type Pointer = { clientX: number; clientY: number };

/** Axes of a decal's picture; the same as the core's decal_frame. */
function frameOf(plan: Plan) {
  const out = V(plan.facing).normalize();
  const reference = Math.abs(out.y) < 0.95 ? new THREE.Vector3(0, 1, 0) : new THREE.Vector3(0, 0, -1);
  const right = new THREE.Vector3().crossVectors(reference, out).normalize();
  const up = new THREE.Vector3().crossVectors(out, right);
  const t = THREE.MathUtils.degToRad(plan.turn);
  return {
    out,
    plainRight: right.clone(),
    plainUp: up.clone(),
    right: right.clone().multiplyScalar(Math.cos(t)).addScaledVector(up, Math.sin(t)),
    up: up.clone().multiplyScalar(Math.cos(t)).addScaledVector(right, -Math.sin(t)),
  };
}

function decalCorners(plan: Plan): THREE.Vector3[] {
  const { right, up } = frameOf(plan);
  const at = (x: number, y: number) =>
    V(plan.position)
      .addScaledVector(right, (x * plan.width) / 2)
      .addScaledVector(up, (y * plan.height) / 2);
  return [at(-1, -1), at(1, -1), at(1, 1), at(-1, 1)];
}

function decalPlaces(plan: Plan): Record<Grip, THREE.Vector3> {
  const { up } = frameOf(plan);
  const middle = V(plan.position);
  return {
    move: middle,
    turn: middle.clone().addScaledVector(up, plan.height / 2 + 0.18),
    size: decalCorners(plan)[1],
  };
}

function dragDecal(plate: PlateScene, start: Plan, grip: Grip, at: Pointer): Plan | null {
  if (grip === 'move') {
    const hit = plate.picker.surfaceAt(at.clientX, at.clientY);
    if (!hit) return null;
    return {
      ...start,
      position: tidyPlace(hit.point),
      facing: tidyPlace(hit.normal),
    };
  }
  const { out, right, up, plainRight, plainUp } = frameOf(start);
  const middle = V(start.position);
  const hit = onPlane(plate, at, new THREE.Plane().setFromNormalAndCoplanarPoint(out, middle));
  if (!hit) return null;
  const delta = hit.sub(middle);
  if (grip === 'turn')
    return {
      ...start,
      turn: tidy(THREE.MathUtils.radToDeg(Math.atan2(-delta.dot(plainRight), delta.dot(plainUp))), 1),
    };
  return {
    ...start,
    width: tidy(Math.min(100, Math.max(0.02, Math.abs(delta.dot(right)) * 2))),
    height: tidy(Math.min(100, Math.max(0.02, Math.abs(delta.dot(up)) * 2))),
  };
}

/** A decal a step further: along its own picture, round, or larger and smaller. */
function stepDecal(plan: Plan, grip: Grip, arrow: [number, number]): Plan {
  const by = arrow[0] || arrow[1];
  if (grip === 'turn') return { ...plan, turn: tidy(plan.turn + by * TURN_STEP, 1) };
  if (grip === 'size') {
    const grown = (v: number) => tidy(Math.min(100, Math.max(0.02, v * (1 + by * SIZE_STEP))));
    return { ...plan, width: grown(plan.width), height: grown(plan.height) };
  }
  const { plainRight, plainUp } = frameOf(plan);
  const to = V(plan.position)
    .addScaledVector(plainRight, arrow[0] * MOVE_STEP)
    .addScaledVector(plainUp, arrow[1] * MOVE_STEP);
  return { ...plan, position: tidyPlace(to) };
}

/** Culled marks on a decal, and its frame. */
export const handles: Handling<Plan> = {
  places: (_, __, plan) => decalPlaces(plan),
  drag: (plate, _, start, grip, at) => dragDecal(plate, start, grip, at),
  step: (_, plan, grip, arrow) => stepDecal(plan, grip, arrow),
  outline: decalCorners,
};

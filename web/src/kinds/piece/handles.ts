import * as THREE from 'three';
import type { PlanOf } from '../../api/client';
import { overGround } from '../../plate/arrows';
import { MOVE_STEP, onPlane, SIZE_STEP, tidy, tidyPlace, TURN_STEP, V } from '../../plate/grips';
import type { PlateScene } from '../../plate/PlateScene';
import { useBench } from '../../state/bench';
import { useSite } from '../../state/site';
import type { Grip, Handling } from '../kind';
import { goingAlong, membersOf } from './together';

type Plan = PlanOf<'piece'>;
type Pointer = { clientX: number; clientY: number };

const middleOf = (plate: PlateScene, key: string, plan: Plan) =>
  V(plan.position).add(new THREE.Vector3(0, plate.surfaces.liftOf(key, plan), 0));

function piecePlaces(plate: PlateScene, key: string, plan: Plan): Record<Grip, THREE.Vector3> {
  const middle = middleOf(plate, key, plan);
  const extent = plate.picker.extent(key);
  const reach = Math.min(Math.max((extent?.radius ?? 1) * 0.75, 0.5), 3);
  const t = THREE.MathUtils.degToRad(plan.turn);
  const front = new THREE.Vector3(Math.sin(t), 0, Math.cos(t));
  return {
    move: middle.clone(),
    turn: middle.clone().addScaledVector(front, reach),
    size: middle.clone().add(new THREE.Vector3(0, Math.min((extent?.top ?? middle.y + 1) - middle.y, 4) + 0.15, 0)),
  };
}

function dragPiece(plate: PlateScene, key: string, start: Plan, grip: Grip, at: Pointer, reach: number): Plan | null {
  if (grip === 'move') {
    const hit = plate.picker.surfaceAt(at.clientX, at.clientY, key);
    if (!hit) return null;
    const ground = plate.picker.groundHeight(hit.point.x, hit.point.z);
    return {
      ...start,
      position: tidyPlace(hit.point),
      ground_at: ground === null ? null : tidy(ground, 4),
    };
  }
  const middle = middleOf(plate, key, start);
  const plane = grip === 'turn' ? new THREE.Plane(new THREE.Vector3(0, 1, 0), -middle.y) : facingPlane(plate, middle);
  const hit = onPlane(plate, at, plane);
  if (!hit) return null;
  if (grip === 'turn')
    return { ...start, turn: tidy(THREE.MathUtils.radToDeg(Math.atan2(hit.x - middle.x, hit.z - middle.z)), 1) };
  const grown = Math.max(0.05, hit.y - middle.y) / reach;
  return { ...start, size: tidy(Math.min(1000, Math.max(0.01, start.size * grown))) };
}

/** A piece a step further: over the ground, round, or larger and smaller. */
function stepPiece(plate: PlateScene, plan: Plan, grip: Grip, arrow: [number, number]): Plan {
  if (grip === 'turn') return { ...plan, turn: tidy(plan.turn + (arrow[0] || arrow[1]) * TURN_STEP, 1) };
  if (grip === 'size')
    return {
      ...plan,
      size: tidy(Math.min(1000, Math.max(0.01, plan.size * (1 + (arrow[0] || arrow[1]) * SIZE_STEP)))),
    };
  const from = V(plan.position);
  const to = from.clone().add(overGround(plate, arrow, MOVE_STEP));
  const before = plate.picker.groundHeight(from.x, from.z),
    ground = plate.picker.groundHeight(to.x, to.z);
  if (before !== null && ground !== null) to.y += ground - before;
  return {
    ...plan,
    position: tidyPlace(to),
    ground_at: ground === null ? null : tidy(ground, 4),
  };
}

function facingPlane(plate: PlateScene, through: THREE.Vector3) {
  const normal = plate.eye.camera.position.clone().sub(through).setY(0).normalize();
  return new THREE.Plane().setFromNormalAndCoplanarPoint(normal, through);
}

/** The others of its group, where they are held together. */
function along(plate: PlateScene, key: string, before: Plan, after: Plan) {
  const { together } = useBench.getState();
  if (!together || together !== before.group) return [];
  const others = membersOf(useSite.getState().items, together).filter((other) => other.key !== key);
  return goingAlong(plate, others, before, after);
}

/** Culled marks on a piece. */
export const handles: Handling<Plan> = { places: piecePlaces, drag: dragPiece, step: stepPiece, along };

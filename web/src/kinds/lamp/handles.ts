import * as THREE from 'three';
import type { PlanOf } from '../../api/client';
import { overGround } from '../../plate/arrows';
import { MOVE_STEP, onPlane, tidyPlace, V } from '../../plate/grips';
import type { Handling } from '../kind';

/** A lamp hangs where it is put: it is dragged in the plane that faces the eye. */
export const handles: Handling<PlanOf<'lamp'>> = {
  places: (_, __, plan) => ({ move: V(plan.position) }),
  drag: (plate, _, start, __, at) => {
    const facing = plate.eye.camera.getWorldDirection(new THREE.Vector3()).negate();
    const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(facing, V(start.position));
    const place = onPlane(plate, at, plane);
    return place && { ...start, position: tidyPlace(place) };
  },
  step: (plate, plan, _, arrow) => ({
    ...plan,
    position: tidyPlace(V(plan.position).add(overGround(plate, arrow, MOVE_STEP))),
  }),
};

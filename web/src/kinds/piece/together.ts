import * as THREE from 'three';
import type { PlanOf } from '../../api/client';
import { tidy, tidyPlace, V } from '../../plate/grips';
import type { PlateScene } from '../../plate/PlateScene';
import { itemsOf, type Edit, type Item } from '../../state/site';

type Piece = PlanOf<'piece'>;

/** The pieces of a group. */
export const membersOf = (items: Record<string, Item>, group: string): Item<Piece>[] =>
  group ? itemsOf(items, 'piece').filter(({ plan }) => plan.group === group) : [];

/** Names of all groups of pieces, in their order. */
export const groupsOf = (items: Record<string, Item>): string[] =>
  [...new Set(itemsOf(items, 'piece').map(({ plan }) => plan.group))]
    .filter(Boolean)
    .sort((a, b) => a.localeCompare(b, 'en', { numeric: true }));

/**
 * What becomes of the others of a group when one of them is moved or turned: they keep their places to it. Sizes are each
 * one's own, and what is locked stays.
 */
export function goingAlong(plate: PlateScene, others: Item<Piece>[], before: Piece, after: Piece): Edit[] {
  const from = V(before.position),
    to = V(after.position);
  const turn = after.turn - before.turn;
  if (!turn && from.equals(to)) return [];
  const round = new THREE.Quaternion().setFromAxisAngle(new THREE.Vector3(0, 1, 0), THREE.MathUtils.degToRad(turn));
  return others
    .filter(({ plan }) => !plan.locked)
    .map(({ key, plan }) => {
      const at = V(plan.position).sub(from).applyQuaternion(round).add(to);
      const ground = plate.picker.groundHeight(at.x, at.z);
      return {
        key,
        plan: {
          ...plan,
          position: tidyPlace(at),
          turn: tidy(plan.turn + turn, 1),
          ground_at: ground === null ? null : tidy(ground, 4),
        },
      };
    });
}

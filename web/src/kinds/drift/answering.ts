import type * as THREE from 'three';
import { byMaterial, type Response } from '../../plate/answer';
import type { Plans } from '../../plate/PlatePart';

/** How a drift answers to the weather, and its own materials where that is not as those it is made of do. */
export interface Answering {
  response: Response;
  own: Map<THREE.Material, THREE.Material>;
}

/** A material as the drift answers to the weather. */
export function answering({ response, own }: Answering, material: THREE.Material): THREE.Material {
  if (byMaterial(response)) return material;
  const made = own.get(material) ?? (material.userData.anew as (r: Response) => THREE.Material)(response);
  own.set(material, made);
  return made;
}

/** Take over how a drift's plan says that it answers; true if it has to be laid up anew. */
export function answersAnew(drift: Answering, plan: Plans[string] | undefined): boolean {
  if (plan?.kind !== 'drift') return false;
  const { soaks, takes_snow, takes_frost } = plan;
  const response = { soaks, takes_snow, takes_frost };
  if (JSON.stringify(response) === JSON.stringify(drift.response)) return false;
  const plain = byMaterial(response) && byMaterial(drift.response);
  drift.response = response;
  return !plain;
}

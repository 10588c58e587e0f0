import * as THREE from 'three';
import type { PlanOf } from '../../api/client';
import { answerOf } from '../answer';
import type { Layer } from '../materials';
import type { MaterialStore } from '../materialStore';

/** Begins the name of a film that stands for droplets where they are less than a pixel, as in the core. */
export const AFAR = 'afar.';
/** Metres of radius of the larger drops in the picture of films at its own scale, as in the core. */
const PICTURED = 0.002;

/** A patina, or what is laid like one, as the program of a surface reads it. */
export function layerOf(
  id: string,
  finish: PlanOf<'patina'>['finish'],
  cover: number,
  ids: string[],
  store: MaterialStore,
): Layer {
  const material = finish.material;
  return {
    key: id,
    cover,
    finish: ids.indexOf(material),
    tile: store.finishTile(material) * finish.scale,
    variationTile: 4 * finish.variation_size,
    tint: new THREE.Color(finish.tint),
    variation: finish.variation,
    roughness: finish.roughness,
    relief: finish.relief,
    breakUp: finish.break_up,
    stain: finish.stain,
    depth: store.info(material).depth * finish.relief,
    thickness: finish.thickness / 1000,
    fill: finish.fill,
    film: finish.film ?? false,
    metalness: Math.max(0, store.info(material).metalness),
    afar: id.startsWith(AFAR) ? finish.scale * PICTURED : 0,
    answer: answerOf(finish, { porosity: store.info(material).porosity }),
  };
}

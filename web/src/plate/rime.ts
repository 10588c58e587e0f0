import * as THREE from 'three';
import { constants } from './formulas.gen';

/** Toward the wind, and as long as rime grows: of frost in a fresh breeze, all of it. */
export const rimeOf = (frost: number, wind: number, from: number) => {
  const bearing = THREE.MathUtils.degToRad(from);
  return new THREE.Vector3(Math.sin(bearing), 0, -Math.cos(bearing)).multiplyScalar(
    frost * Math.min(1, wind / constants.RIME_WIND),
  );
};

import * as THREE from 'three';

const corner = [new THREE.Vector3(), new THREE.Vector3(), new THREE.Vector3(), new THREE.Vector3()];
const found = new THREE.Vector3();
const box = new THREE.Box3();
const entry = new THREE.Vector3();

/**
 * Where a line of sight meets the ground: from cell to cell of its grid, so that a ground of a million cells costs no
 * more than one of its rows. After Amanatides and Woo, *A Fast Voxel Traversal Algorithm* (1987), in the plane.
 */
export function groundHit(
  geometry: THREE.BufferGeometry,
  ray: THREE.Ray,
): { point: THREE.Vector3; normal: THREE.Vector3 } | null {
  const [rows, columns] = geometry.userData.grid as [number, number];
  const at = geometry.getAttribute('position') as THREE.BufferAttribute;
  const left = at.getX(0),
    top = at.getZ(0);
  const dx = (at.getX(columns - 1) - left) / (columns - 1),
    dz = (at.getZ((rows - 1) * columns) - top) / (rows - 1);
  // A hair of room: a level ground has a box without height.
  const around = box.copy(geometry.boundingBox!).expandByScalar(1e-4);
  if (around.containsPoint(ray.origin)) entry.copy(ray.origin);
  else if (!ray.intersectBox(around, entry)) return null;
  const { direction } = ray;
  let column = clamp(Math.floor((entry.x - left) / dx), columns - 2),
    row = clamp(Math.floor((entry.z - top) / dz), rows - 2);
  const stepX = Math.sign(direction.x),
    stepZ = Math.sign(direction.z);
  const reach = (from: number, towards: number, speed: number) => (speed === 0 ? Infinity : (towards - from) / speed);
  let nextX = reach(ray.origin.x, left + (column + (stepX > 0 ? 1 : 0)) * dx, direction.x);
  let nextZ = reach(ray.origin.z, top + (row + (stepZ > 0 ? 1 : 0)) * dz, direction.z);
  while (row >= 0 && column >= 0 && row < rows - 1 && column < columns - 1) {
    const hit = inCell(at, columns, row, column, ray);
    if (hit) return hit;
    if (nextX === Infinity && nextZ === Infinity) return null;
    if (nextX < nextZ) {
      column += stepX;
      nextX += Math.abs(dx / direction.x);
    } else {
      row += stepZ;
      nextZ += Math.abs(dz / direction.z);
    }
  }
  return null;
}

const clamp = (v: number, most: number) => Math.min(most, Math.max(0, v));

/** The nearer of the cell's two triangles; their diagonal alternates like a chessboard, as the core lays them. */
function inCell(at: THREE.BufferAttribute, columns: number, row: number, column: number, ray: THREE.Ray) {
  const first = row * columns + column;
  [first, first + 1, first + columns, first + columns + 1].forEach((v, k) => corner[k].fromBufferAttribute(at, v));
  const [a, b, c, d] = corner;
  const triangles =
    (row + column) % 2
      ? [
          [a, c, b],
          [b, c, d],
        ]
      : [
          [a, c, d],
          [a, d, b],
        ];
  let best: { point: THREE.Vector3; normal: THREE.Vector3 } | null = null;
  for (const [p, q, r] of triangles) {
    if (!ray.intersectTriangle(p, q, r, false, found)) continue;
    if (best && best.point.distanceToSquared(ray.origin) <= found.distanceToSquared(ray.origin)) continue;
    best = { point: found.clone(), normal: THREE.Triangle.getNormal(p, q, r, new THREE.Vector3()) };
  }
  return best;
}

import * as THREE from 'three';

/** The same triangles in other colours; geometry of another size is left as it is. */
export function coloured(geometry: THREE.BufferGeometry, colours: THREE.BufferAttribute): THREE.BufferGeometry {
  if (colours.count !== geometry.getAttribute('position').count) return geometry;
  const out = new THREE.BufferGeometry();
  for (const [name, attribute] of Object.entries(geometry.attributes))
    out.setAttribute(name, name === 'color' ? colours : attribute);
  out.setIndex(geometry.index);
  out.setDrawRange(geometry.drawRange.start, geometry.drawRange.count);
  out.userData.coloured = true;
  return out;
}

/** Give back what instances hold of their own; what they share with others stays. */
export function letGo(mesh: THREE.InstancedMesh) {
  mesh.dispose();
  const { geometry } = mesh;
  if (!geometry.userData.coloured) return;
  for (const name of Object.keys(geometry.attributes)) geometry.deleteAttribute(name);
  geometry.setIndex(null);
  geometry.dispose();
}

import * as THREE from 'three';
import { decalMaterial, leafMaterial, surfaceMaterial, type Lighting } from './materials';
import type { Pictures } from './materialStore';
import { radiance, skyDome } from './sky';
import { USUAL_LAYERS } from './surfaceShader';

/** A grey picture of the same make as those that come from the server. */
function greyPicture(srgb: boolean, anisotropy: number): THREE.DataTexture {
  const texture = new THREE.DataTexture(new Uint8Array(64).fill(128), 4, 4);
  texture.wrapS = texture.wrapT = THREE.RepeatWrapping;
  texture.minFilter = THREE.LinearMipmapLinearFilter;
  texture.magFilter = THREE.LinearFilter;
  texture.generateMipmaps = true;
  texture.colorSpace = srgb ? THREE.SRGBColorSpace : THREE.NoColorSpace;
  texture.anisotropy = anisotropy;
  texture.needsUpdate = true;
  return texture;
}

/** One triangle with all the attributes that a kind of thing has. */
function triangle(names: ('unwrapUv' | 'color' | 'sway')[]): THREE.BufferGeometry {
  const geometry = new THREE.BufferGeometry();
  const floats = (size: number) => new THREE.BufferAttribute(new Float32Array(3 * size).fill(1), size);
  geometry.setAttribute('position', new THREE.BufferAttribute(Float32Array.of(0, 0, 0, 0.1, 0, 0, 0, 0.1, 0), 3));
  geometry.setAttribute('normal', floats(3));
  geometry.setAttribute('uv', new THREE.BufferAttribute(Float32Array.of(0, 0, 1, 0, 0, 1), 2));
  if (names.includes('unwrapUv')) geometry.setAttribute('unwrapUv', floats(2));
  if (names.includes('sway')) geometry.setAttribute('sway', new THREE.BufferAttribute(new Uint8Array(12), 4, true));
  if (names.includes('color')) geometry.setAttribute('color', floats(4));
  geometry.setIndex(new THREE.BufferAttribute(Uint32Array.of(0, 1, 2), 1));
  return geometry;
}

function scattered(material: THREE.Material): THREE.InstancedMesh {
  const mesh = new THREE.InstancedMesh(triangle(['color', 'sway']), material, 1);
  mesh.instanceColor = new THREE.InstancedBufferAttribute(Float32Array.of(1, 1, 1), 3);
  return mesh;
}

function sky(): ReturnType<typeof skyDome> {
  const dome = skyDome();
  dome.material.map = radiance(new Uint32Array(4).fill(0x80402010), 2, 2);
  return dome;
}

/**
 * One small triangle of each kind of thing, drawn before any of them has come: without a graphics card a program is made
 * in full when it draws for the first time, a second and more for all of them, in which the site can be on its way.
 */
export class ShaderPrewarm {
  private group = new THREE.Group();
  private pictures: THREE.Texture[];
  private over = false;

  constructor(lighting: Lighting, anisotropy: number) {
    const grey: Pictures = {
      tile: 1,
      metalness: 0,
      porosity: 1,
      sheds: 0,
      window: false,
      depth: 0,
      translucency: 0.3,
      alpha: false,
      size: 4,
      aspect: 1,
      url: '',
      v: '',
      colour: greyPicture(true, anisotropy),
      relief: greyPicture(false, anisotropy),
    };
    const dome = sky();
    this.pictures = [grey.colour, grey.relief, dome.material.map!];
    const structure = new THREE.Mesh(triangle(['unwrapUv']), surfaceMaterial(grey, { layers: USUAL_LAYERS }, lighting));
    this.group.add(
      dome,
      structure,
      new THREE.Mesh(triangle(['unwrapUv']), surfaceMaterial(grey, { layers: USUAL_LAYERS, steep: true }, lighting)),
      scattered(surfaceMaterial(grey, { layers: 0, tall: 1 }, lighting)),
      scattered(leafMaterial(grey, lighting, 1)),
      new THREE.Mesh(triangle(['color']), decalMaterial(grey, '#ffffff', lighting)),
    );
    this.group.children.forEach((one) => {
      one.frustumCulled = false;
      one.receiveShadow = true;
    });
  }

  /** Draw them a little before the eye. The programs stay made until `dispose`. */
  async play(renderer: THREE.WebGLRenderer, scene: THREE.Scene, camera: THREE.Camera) {
    this.group.position.copy(camera.localToWorld(new THREE.Vector3(0, 0, -2)));
    await renderer.compileAsync(this.group, camera, scene);
    if (this.over) return;
    scene.add(this.group);
    renderer.render(scene, camera);
    scene.remove(this.group);
    renderer.clear();
  }

  dispose() {
    this.over = true;
    this.pictures.forEach((picture) => picture.dispose());
    for (const one of this.group.children as THREE.Mesh<THREE.BufferGeometry, THREE.Material>[]) {
      one.geometry.dispose();
      one.material.dispose();
    }
  }
}

import * as THREE from 'three';
import type { Packet } from '../api/packet';
import { StaticFrameCache, TOOLS } from './StaticFrameCache';
import type { Eye } from './Eye';
import type { Machine } from './machine';
import { clayMaterial } from './materials';
import { MaterialStore } from './materialStore';
import { skyDome, skyOf } from './sky';
import { views, type View } from './views';
import type { Mirrored } from './water';
import { waterLit } from './waterLight';

/** Metres about the middle of the view that the sun's shadow reaches. */
const REACH = 26;
/** How far off the sun stands, metres. */
const SUN_AWAY = 80;

/** What stands before the eye, and the light it stands in. */
export class Stage {
  readonly scene = new THREE.Scene();
  readonly tools = new THREE.Group();
  readonly fog = new THREE.FogExp2(0xcccccc, 0.002);
  readonly clay = clayMaterial();
  readonly mirrored: Mirrored = { sky: { value: null }, rain: { value: 0 }, time: { value: 0 } };
  /** The sun as water takes it. */
  readonly sunSeen = { direction: { value: new THREE.Vector3(0, 1, 0) }, light: { value: new THREE.Color(0) } };
  readonly store: MaterialStore;
  readonly backdrop: StaticFrameCache | null;
  private sun = new THREE.DirectionalLight(0xffffff, 3);
  private ambient = new THREE.LightProbe();
  private dome = skyDome();
  private sunDirection = new THREE.Vector3(0.4, 0.6, 0.5);

  constructor(
    private eye: Eye,
    private machine: Machine,
  ) {
    const { renderer } = eye;
    // Pictures are laid up as they come, not all in the first frame that shows them.
    const lay = (texture: THREE.Texture) => {
      renderer.initTexture(texture);
      renderer.getContext().flush();
    };
    this.store = new MaterialStore({ ...machine.pictures, lay });
    renderer.toneMapping = THREE.NeutralToneMapping;
    renderer.shadowMap.enabled = true;
    renderer.shadowMap.type = THREE.PCFShadowMap;
    renderer.shadowMap.autoUpdate = false;
    this.sun.castShadow = true;
    this.sun.shadow.mapSize.set(machine.shadowSide, machine.shadowSide);
    this.sun.shadow.radius = 3;
    this.sun.shadow.bias = -0.0006;
    this.sun.shadow.normalBias = 0.03;
    Object.assign(this.sun.shadow.camera, {
      left: -REACH,
      right: REACH,
      top: REACH,
      bottom: -REACH,
      near: 1,
      far: 2 * SUN_AWAY,
    });
    // The very same vectors: what is set here is what surfaces read.
    waterLit.uSunSeen.value = this.sunSeen.direction.value;
    waterLit.uSunLight.value = this.sunSeen.light.value;
    waterLit.uSunShadow.value = this.sun.shadow.matrix;
    this.tools.renderOrder = TOOLS;
    this.scene.add(this.sun, this.sun.target, this.tools, this.ambient, this.dome);
    this.backdrop = machine.settles ? new StaticFrameCache(renderer, this.dome.material) : null;
    if (this.backdrop) this.scene.add(this.backdrop.marker);
  }

  takeSky(packet: Packet) {
    const sky = skyOf(packet);
    this.machine.light(sky, this.scene, this.ambient, this.eye.renderer);
    this.dome.material.map?.dispose();
    this.dome.material.map = sky.background;
    this.mirrored.sky.value = sky.background;
    this.eye.renderer.initTexture(sky.background);
    this.dome.material.needsUpdate = true;
    this.sunDirection.copy(sky.sun);
    this.sun.color.copy(sky.sunColour);
    this.sun.intensity = 1;
    this.sunSeen.direction.value.copy(sky.sun).normalize();
    this.sunSeen.light.value.copy(sky.sunColour);
    this.fog.color.copy(sky.haze);
  }

  /** The sun's shadow and the sky go along with the eye. */
  placeSun() {
    const { camera, controls } = this.eye;
    this.dome.position.copy(camera.position);
    const middle = controls.target.clone().lerp(camera.position, 0.35);
    this.sun.target.position.copy(middle);
    this.sun.position.copy(middle).addScaledVector(this.sunDirection, SUN_AWAY);
    this.sun.target.updateMatrixWorld();
  }

  applyView(view: View) {
    const mode = views[view];
    this.dome.visible = mode.sky;
    this.scene.background = new THREE.Color(mode.background);
    this.scene.fog = mode.sky ? this.fog : null;
  }

  dispose() {
    this.store.dispose();
    this.clay.dispose();
    this.dome.material.map?.dispose();
    this.scene.environment?.dispose();
    // Whatever else stands in the scene: instances, tools, the dome.
    this.scene.traverse((thing) => {
      const { geometry, material, dispose } = thing as Partial<THREE.InstancedMesh>;
      geometry?.dispose();
      [material ?? []].flat().forEach((one) => one.dispose());
      if ((thing as THREE.InstancedMesh).isInstancedMesh) dispose?.call(thing);
    });
    this.sun.shadow.dispose();
    this.backdrop?.dispose();
  }
}

import * as THREE from 'three';
import type { Asset } from '../api/client';
import type { Lighting } from './materials';
import { AdaptiveQuality } from './adaptiveQuality';
import type { SkyView } from './sky';

/** A card of not even so many times fewer triangles than the level before it costs a processor more: its holes have to be looked up. */
const CARD_SAVES = 2.5;

/** An asset as it is drawn where there is no graphics card. */
export function forProcessor(asset: Asset): Asset {
  const [before, card] = asset.triangles.slice(-2);
  if (!asset.materials.far || before >= CARD_SAVES * card) return asset;
  return { ...asset, lods: asset.lods.slice(0, -1), triangles: asset.triangles.slice(0, -1) };
}

/** How careful a picture is: one that has to be there at once, the usual one, one that may take its time. */
export type Care = 'quick' | 'usual' | 'settled';

/** How much of what is scattered is drawn. */
export interface Spend {
  triangles: number;
  /** Scales the distances of the levels of detail: below 1 everything gets coarser sooner. */
  detail: number;
  /** The same for the best picture that will be drawn from here. */
  best: number;
}

/** What the machine before us can do: with a graphics card, or without one. All that differs between the two is here. */
export interface Machine {
  readonly software: boolean;
  readonly antialias: boolean;
  readonly pixelRatio: number;
  readonly lighting: Lighting;
  /** Texels along a side of the sun's shadow. */
  readonly shadowSide: number;
  readonly pictures: { side: number; first: number; near: number; anisotropy: number };
  /** Things of a drift that a preview may hold. */
  readonly most: number;
  /** Milliseconds between two pictures while the wind blows. */
  readonly windPause: number;
  /** The full picture comes once nothing has moved for a moment; until then quicker ones stand for it. */
  readonly settles: boolean;
  asset(asset: Asset): Asset;
  spend(care: Care): Spend;
  /** Share of the pixels along each side. */
  sharpness(care: Care, moving: boolean): number;
  /** Does the time a frame takes have to be waited for to be known? */
  waits(moving: boolean, triangles: number): boolean;
  took(ms: number): void;
  light(sky: SkyView, scene: THREE.Scene, ambient: THREE.LightProbe, renderer: THREE.WebGLRenderer): void;
}

function withCard(): Machine {
  const quality = new AdaptiveQuality();
  return {
    software: false,
    antialias: true,
    pixelRatio: Math.min(window.devicePixelRatio, 2),
    lighting: { plain: false },
    shadowSide: 4096,
    pictures: { side: 1024, first: 1024, near: 2048, anisotropy: 8 },
    most: 120_000,
    windPause: 33,
    settles: false,
    asset: (asset) => asset,
    spend: () => ({ triangles: 6_000_000, detail: quality.detail, best: quality.detail }),
    sharpness: (_, moving) => (moving ? quality.pixels : 1),
    waits: (moving, triangles) => moving || triangles > 500_000,
    took: (ms) => quality.frame(ms),
    light: (sky, scene, _, renderer) => {
      const pmrem = new THREE.PMREMGenerator(renderer);
      scene.environment?.dispose();
      scene.environment = pmrem.fromEquirectangular(sky.background).texture;
      pmrem.dispose();
    },
  };
}

/** Without a graphics card everything costs a hundred times more, so the plate then draws less of it. */
const inSoftware: Machine = {
  software: true,
  antialias: false,
  pixelRatio: 1,
  lighting: { plain: true },
  shadowSide: 1024,
  pictures: { side: 512, first: 256, near: 1024, anisotropy: 2 },
  most: 40_000,
  windPause: 400,
  settles: true,
  asset: forProcessor,
  spend: (care) =>
    ({
      quick: { triangles: 80_000, detail: 0.02, best: 0.12 },
      usual: { triangles: 200_000, detail: 0.12, best: 0.18 },
      settled: { triangles: 900_000, detail: 0.18, best: 0.18 },
    })[care],
  sharpness: (care) => (care === 'quick' ? 0.5 : 1),
  waits: () => true,
  took: () => undefined,
  light: (sky, _, ambient) => {
    ambient.sh.copy(sky.ambient);
  },
};

/** Where a page may say that there is a card, whatever the browser calls it. */
const SAID = 'cenote.card';

/** Find out what draws here. */
export function machine(): Machine {
  if (localStorage.getItem(SAID) === 'yes') return withCard();
  const gl = document.createElement('canvas').getContext('webgl2');
  const info = gl?.getExtension('WEBGL_debug_renderer_info');
  const name = gl && info ? String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL)) : '';
  gl?.getExtension('WEBGL_lose_context')?.loseContext();
  return /swiftshader|llvmpipe|software/i.test(name) ? inSoftware : withCard();
}

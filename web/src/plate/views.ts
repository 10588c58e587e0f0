import * as THREE from 'three';
import { densityView } from './density';
import { patched } from './patched';

/** One way of seeing the site. To add another, add an entry. */
export interface ViewMode {
  label: string;
  help: string;
  /** Ends every fragment of the materials it is written for; `SURFACE` is defined in those of ground and pieces. */
  glsl: string;
  sky: boolean;
  drifts: boolean;
  decals: boolean;
  /** One grey material for all. */
  clay: boolean;
  background: number;
  /** One of the channels a surface is made of; these are chosen from a list of their own. */
  channel?: boolean;
}

const PAPER = 0x8e8e8e;
/** Form, faintly, in views without light; needs `normal`. */
const SHADE =
  'float shade = 0.62 + 0.38 * max(0.0, dot(normal, normalize((viewMatrix * vec4(0.35, 0.85, 0.4, 0.0)).xyz)));';

const plain = { sky: false, drifts: true, decals: true, clay: false, background: PAPER };

/** Metres from middle grey to white. */
export const SHOWN_HEIGHT = 0.05;

/** A channel as plain numbers, black 0 and white 1; what is scattered carries none. */
function channel(help: string, value: string): ViewMode {
  const glsl = `
    #ifdef SURFACE
    gl_FragColor.rgb = clamp(${value}, 0.0, 1.0);
    #else
    discard;
    #endif`;
  return {
    ...plain,
    label: help.split(':')[0].split(' ')[0].toLowerCase(),
    help,
    glsl,
    decals: false,
    drifts: false,
    channel: true,
  };
}

export const views = {
  lit: { ...plain, label: 'lit', help: 'In the light of the site', glsl: '', sky: true },
  colour: {
    ...plain,
    label: 'colour',
    help: 'Surface colour without light',
    glsl: 'gl_FragColor.rgb = diffuseColor.rgb;',
  },
  clay: { ...plain, label: 'clay', help: 'Form alone, one grey material', glsl: '', clay: true, decals: false },
  mask: {
    ...plain,
    label: 'mask',
    help: 'Where the selected patina, drift, decal or surface is: grey what it is not on, pale what it may lie on, dark where it is (X)',
    drifts: false,
    decals: false,
    // Printed in ink on what carries it, with two thin contours: where a cover starts and where it is full.
    glsl: /* glsl */ `
      #ifdef SURFACE
      ${SHADE}
      gl_FragColor.rgb = vec3(0.15) * shade;
      if (uMaskLayer >= 0) {
        float w = max(fwidth(sMask), 1e-4);
        float start = 1.0 - smoothstep(0.0, 1.4, abs(sMask - 0.02) / w);
        float full = 1.0 - smoothstep(0.0, 1.4, abs(sMask - 0.98) / w);
        vec3 print = mix(vec3(0.80, 0.77, 0.70) * shade, vec3(0.004, 0.095, 0.12), sMask);
        print = mix(print, vec3(0.0, 0.25, 0.30), start * 0.9);
        gl_FragColor.rgb = mix(print, vec3(0.75, 0.38, 0.05), full * 0.9);
      }
      #else
      gl_FragColor = vec4(mix(vec3(0.80, 0.77, 0.70), vec3(0.004, 0.095, 0.12), diffuseColor.a), 0.92);
      #endif`,
  },
  density: {
    ...plain,
    label: 'density',
    help: 'How many stand where, as a printed dot screen: of the selected drift, or of all',
    drifts: false,
    decals: false,
    glsl: densityView.glsl,
  },
  roughness: channel('Roughness: black gloss, white matt', 'vec3(sRough)'),
  metalness: channel('Metalness: white bare metal', 'vec3(sMetal)'),
  slope: channel('Slope of the fine relief along the surface, grey level', 'vec3(0.5 + 0.5 * sLean, 0.5)'),
  height: channel(
    `Height of the relief, white ${SHOWN_HEIGHT * 1000} mm and more over grey`,
    `vec3(0.5 + sHeight / ${(2 * SHOWN_HEIGHT).toFixed(3)})`,
  ),
  wetness: channel('Wetness: white soaked', 'vec3(sWet)'),
} satisfies Record<string, ViewMode>;

export type View = keyof typeof views;

export const modes: Record<View, ViewMode> = views;

const names = Object.keys(views) as View[];

/** Shared by all materials: which view is shown, and what views need. */
export const viewUniforms: Record<string, THREE.IUniform> = { uView: { value: 0 }, ...densityView.uniforms };

export function showView(view: View) {
  viewUniforms.uView.value = names.indexOf(view);
}

/** Declarations that go before `main`. */
export const viewHead = `uniform int uView;\n${densityView.head}`;

/** Goes where light has been worked out. */
export const viewEnd = names
  .map((name, n) => (views[name].glsl ? `if (uView == ${n}) {${views[name].glsl}\n}` : ''))
  .join('\n');

/** Let a material be seen in every view. */
export function withViews(program: THREE.WebGLProgramParametersWithUniforms) {
  Object.assign(program.uniforms, viewUniforms);
  program.fragmentShader = patched(
    program.fragmentShader,
    ['void main() {', `${viewHead}\nvoid main() {\n`],
    ['#include <tonemapping_fragment>', `#include <tonemapping_fragment>\n${viewEnd}`],
  );
}

import * as THREE from 'three';
import type { PlanOf } from '../../../api/client';
import { fresh } from '../../../api/defaults';
import { nextOrder } from '../../../state/fresh';
import { kindOf } from '../../../kinds';
import { useBench, type Brushing } from '../../../state/bench';
import { newKey, useSite } from '../../../state/site';
import { Ring } from '../../../plate/Ring';
import { rounded, type PlateTool, type ToolContext } from './tool';

interface Stroke {
  owner: string;
  points: THREE.Vector3[];
  target: string;
  key: string;
  level: number;
}

const words: Record<Brushing, string> = {
  more: 'paint',
  less: 'thin',
  erase: 'erase',
  lay: 'lay',
  raise: 'raise',
  lower: 'lower',
  smooth: 'smooth',
  flatten: 'flatten',
  roughen: 'roughen',
  erode: 'erode',
};
const sculpts = ['raise', 'lower', 'smooth', 'flatten', 'roughen', 'erode'];

/** What a stroke goes to: the chosen surface of the ground, or the selected drift, patina or ground. */
function target(action: Brushing): string | null {
  const { paintOn } = useBench.getState();
  const { selected, items } = useSite.getState();
  if (sculpts.includes(action)) return 'ground';
  if (paintOn) return paintOn;
  return selected && kindOf(items[selected]?.plan)?.painted ? selected : null;
}

function plan(stroke: Stroke, action: Brushing): PlanOf<'touch'> {
  const { brush } = useBench.getState();
  return fresh('touch', {
    name: `${words[action]} ${stroke.key.slice(-4)}`,
    target: stroke.target,
    action,
    owner: stroke.owner,
    points: stroke.points.map(rounded),
    radius: brush.radius,
    strength: brush.strength,
    falloff: brush.falloff,
    amount: brush.amount,
    level: Number(stroke.level.toFixed(3)),
    order: nextOrder(useSite.getState().items),
  });
}

/** The brush: a ring on the surface; strokes show while they are made and are kept when the button is let go. */
export function paintTool({ scene, canvas }: ToolContext, action: Brushing): PlateTool {
  const ring = new Ring(scene);
  let stroke: Stroke | null = null;
  const keep = () => {
    if (!stroke) return;
    const { items, commit } = useSite.getState();
    const name = stroke.target.startsWith('ground')
      ? stroke.target.replace('ground.', 'ground, ')
      : (items[stroke.target]?.plan.name ?? '');
    commit(`${words[action]} ${name}`, [{ key: stroke.key, plan: plan(stroke, action) }]);
    stroke = null;
  };
  const hitFor = (event: PointerEvent) => {
    const hit = scene.picker.surfaceAt(
      event.clientX,
      event.clientY,
      undefined,
      target(action)?.startsWith('ground') ? 'ground' : undefined,
    );
    return hit;
  };
  return {
    cursor: 'none',
    holdsLeft: true,
    down: (event) => {
      const key = target(action);
      const hit = key ? hitFor(event) : null;
      if (!key || !hit) return;
      canvas.setPointerCapture(event.pointerId);
      stroke = {
        owner: hit.owner,
        points: [scene.picker.toLocal(hit.owner, hit.point)],
        target: key,
        key: newKey('touch'),
        level: hit.point.y,
      };
      useSite.getState().draft(stroke.key, plan(stroke, action));
    },
    move: (event) => {
      const hit = hitFor(event);
      const { brush, set } = useBench.getState();
      ring.show(hit, brush.radius);
      set({
        hovered: hit
          ? {
              text: `brush ${brush.radius.toFixed(2)} m${sculpts.includes(action) ? `, height here ${hit.point.y.toFixed(2)} m` : ''}`,
            }
          : null,
      });
      if (!stroke || !hit || hit.owner !== stroke.owner) return;
      const point = scene.picker.toLocal(hit.owner, hit.point);
      if (
        point.distanceTo(stroke.points[stroke.points.length - 1]) > brush.radius * 0.2 &&
        stroke.points.length < 4000
      ) {
        stroke.points.push(point);
        useSite.getState().draft(stroke.key, plan(stroke, action));
      }
    },
    up: (event) => {
      if (stroke) canvas.releasePointerCapture(event.pointerId);
      keep();
    },
    leave: () => ring.show(null, 1),
    // A stroke in the middle of which the tool or the page goes is kept, not lost.
    dispose: () => {
      keep();
      ring.dispose();
    },
  };
}

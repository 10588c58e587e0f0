import * as THREE from 'three';
import type { PlanOf } from '../../../api/client';
import { changePicked, editPlan } from '../../../kinds/drift/edits';
import { ThingPicker } from '../../../kinds/drift/picking';
import { nextOrder } from '../../../state/fresh';
import { useBench, type Picked } from '../../../state/bench';
import { newKey, useSite } from '../../../state/site';
import type { PlateTool, ToolContext } from './tool';

/** The drift that is picked from: the selected one. */
const drift = () => {
  const { selected, items } = useSite.getState();
  return selected && items[selected]?.plan.kind === 'drift' ? selected : null;
};

function merged(now: Picked | null, found: Picked, toggle: boolean): Picked | null {
  if (!toggle || !now || now.drift !== found.drift) return found.identities.length ? found : null;
  const known = new Set(now.identities);
  const dropped = new Set(found.identities.filter((i) => known.has(i)));
  const all = [
    ...now.identities.map((id, k) => ({ id, at: now.places[k] })),
    ...found.identities.map((id, k) => ({ id, at: found.places[k] })).filter((e) => !known.has(e.id)),
  ].filter((e) => !dropped.has(e.id));
  return all.length ? { drift: now.drift, identities: all.map((e) => e.id), places: all.map((e) => e.at) } : null;
}

/** Click a thing to pick it (Shift adds), drag a box over several, drag a picked one to move all picked. */
export function pickTool({ scene, canvas }: ToolContext): PlateTool {
  const things = new ThingPicker(scene);
  let from: { x: number; y: number; shift: boolean } | null = null;
  let moving: { start: THREE.Vector3; key: string; last: Partial<PlanOf<'edit'>> | null } | null = null;
  return {
    cursor: 'default',
    holdsLeft: true,
    down: (event) => {
      const { picked } = useBench.getState();
      canvas.setPointerCapture(event.pointerId);
      const key = drift();
      const hit = key ? things.instanceAt(event.clientX, event.clientY, key) : null;
      if (picked && hit && picked.identities.includes(hit.identity) && !event.shiftKey) {
        const ground = scene.picker.surfaceAt(event.clientX, event.clientY);
        if (ground) moving = { start: ground.point.clone(), key: newKey('edit'), last: null };
      } else from = { x: event.clientX, y: event.clientY, shift: event.shiftKey };
    },
    move: (event) => {
      const { picked, set } = useBench.getState();
      if (moving && picked) {
        const ground = scene.picker.surfaceAt(event.clientX, event.clientY);
        if (!ground) return;
        const delta = ground.point.clone().sub(moving.start);
        moving.last = {
          action: 'change',
          move: [Number(delta.x.toFixed(3)), Number(delta.y.toFixed(3)), Number(delta.z.toFixed(3))],
        };
        useSite.getState().draft(moving.key, editPlan(picked, moving.last, nextOrder(useSite.getState().items)));
      } else if (from) scene.picker.showBox(from, { x: event.clientX, y: event.clientY });
      else {
        const key = drift();
        const hit = key ? things.instanceAt(event.clientX, event.clientY, key) : null;
        set({ hovered: hit ? { text: `${hit.title}, ${hit.size.toFixed(2)} ×` } : null });
      }
    },
    up: (event) => {
      canvas.releasePointerCapture(event.pointerId);
      const { picked, set } = useBench.getState();
      const key = drift();
      if (moving && picked) {
        if (moving.last) {
          changePicked(picked, `move ${picked.identities.length}`, moving.last, moving.key);
          const [dx, dy, dz] = moving.last.move!;
          set({ picked: { ...picked, places: picked.places.map(([x, y, z]) => [x + dx, y + dy, z + dz]) } });
        }
        moving = null;
        return;
      }
      if (!from || !key) return;
      const far = Math.hypot(event.clientX - from.x, event.clientY - from.y) > 5;
      const box: [number, number][] = [
        [from.x, from.y],
        [event.clientX, from.y],
        [event.clientX, event.clientY],
        [from.x, event.clientY],
      ];
      const one = far ? null : things.instanceAt(event.clientX, event.clientY, key);
      const found = far
        ? things.instancesWithin(box, key)
        : { drift: key, identities: one ? [one.identity] : [], places: one ? [one.place] : [] };
      set({ picked: merged(picked, found, from.shift) });
      from = null;
      scene.picker.showBox(null, null);
    },
    key: (name) => pickedKey(name),
    dispose: () => scene.picker.showBox(null, null),
  };
}

/** Draw around things to pick them. */
export function lassoTool({ scene, canvas }: ToolContext): PlateTool {
  const things = new ThingPicker(scene);
  let line: [number, number][] | null = null;
  let shift = false;
  return {
    cursor: 'crosshair',
    holdsLeft: true,
    down: (event) => {
      canvas.setPointerCapture(event.pointerId);
      line = [[event.clientX, event.clientY]];
      shift = event.shiftKey;
    },
    move: (event) => {
      if (!line) return;
      line.push([event.clientX, event.clientY]);
      scene.picker.showLasso(line);
    },
    up: (event) => {
      canvas.releasePointerCapture(event.pointerId);
      const key = drift();
      if (line && key && line.length > 3) {
        const { picked, set } = useBench.getState();
        set({ picked: merged(picked, things.instancesWithin(line, key), shift), tool: 'pick' });
      }
      line = null;
      scene.picker.showLasso(null);
    },
    key: (name) => pickedKey(name),
    dispose: () => scene.picker.showLasso(null),
  };
}

function pickedKey(name: string) {
  const { picked, set } = useBench.getState();
  if (!picked) return;
  const count = picked.identities.length;
  if (name === 'delete' || name === 'backspace') {
    changePicked(picked, `take away ${count}`, { action: 'remove' });
    set({ picked: null });
  } else if (name === ',' || name === '.') changePicked(picked, `turn ${count}`, { turn: name === '.' ? 15 : -15 });
  else if (name === '-' || name === '=') changePicked(picked, `size ${count}`, { size: name === '=' ? 1.1 : 0.909 });
}

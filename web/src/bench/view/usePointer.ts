import { useEffect } from 'react';
import * as THREE from 'three';
import { api } from '../../api/client';
import { kindOf, kinds, steps } from '../../kinds';
import { brushing, useBench, type Tool } from '../../state/bench';
import { useSite } from '../../state/site';
import type { Hit } from '../../plate/Picker';
import type { PlateScene } from '../../plate/PlateScene';
import { drawTool } from './tools/draw';
import { paintTool } from './tools/paint';
import { lassoTool, pickTool } from './tools/pick';
import { placeTool } from './tools/place';
import { rounded, type PlateTool, type ToolContext } from './tools/tool';

function toolFor(tool: Tool, armed: boolean, context: ToolContext): PlateTool {
  if (brushing(tool)) return paintTool(context, tool);
  if (tool === 'draw') return drawTool(context);
  if (tool === 'pick') return pickTool(context);
  if (tool === 'lasso') return lassoTool(context);
  if (armed) return placeTool(context);
  return lookTool(context);
}

/** What the pointer does in the plate, by the tool in hand. */
export function usePointer(scene: PlateScene | null, canvas: HTMLCanvasElement | null) {
  const tool = useBench((s) => s.tool);
  const armed = useBench((s) => s.armed);
  const set = useBench((s) => s.set);

  useEffect(() => {
    if (!scene || !canvas) return;
    const inHand = toolFor(tool, armed !== null, { scene, canvas });
    scene.eye.controls.mouseButtons.LEFT = inHand.holdsLeft ? null : THREE.MOUSE.ROTATE;
    const down = (event: PointerEvent) => event.button === 0 && inHand.down?.(event);
    const move = (event: PointerEvent) => {
      inHand.move?.(event);
      asked = { x: event.clientX, y: event.clientY };
      note();
    };
    const up = (event: PointerEvent) => event.button === 0 && inHand.up?.(event);
    const double = (event: MouseEvent) => inHand.double?.(event);
    const leave = () => {
      inHand.leave?.();
      set({ hovered: null, spot: null, why: null });
    };
    const key = (event: Event) => {
      const name = (event as CustomEvent<string>).detail;
      inHand.key?.(name);
      if (name === 'f') frame(scene);
      if (name === 'w' && asked) void explain(scene, asked.x, asked.y);
      if (name === 'w up') set({ why: null });
    };
    // The surface under the pointer, for the markers on the gates; asked for at a calm pace.
    let asked: { x: number; y: number } | null = null;
    let timer = 0;
    const note = () => {
      window.clearTimeout(timer);
      timer = window.setTimeout(() => {
        const { items, selected } = useSite.getState();
        const ruled = kindOf(selected ? items[selected]?.plan : undefined)?.painted;
        const hit = asked && ruled ? scene.picker.surfaceAt(asked.x, asked.y) : null;
        set({ spot: hit ? { owner: hit.owner, point: rounded(hit.point) } : null });
      }, 120);
    };
    canvas.addEventListener('pointerdown', down);
    canvas.addEventListener('pointermove', move);
    canvas.addEventListener('pointerup', up);
    canvas.addEventListener('dblclick', double);
    canvas.addEventListener('pointerleave', leave);
    window.addEventListener('cenote-key', key);
    canvas.style.cursor = inHand.cursor;
    return () => {
      window.clearTimeout(timer);
      inHand.dispose?.();
      canvas.removeEventListener('pointerdown', down);
      canvas.removeEventListener('pointermove', move);
      canvas.removeEventListener('pointerup', up);
      canvas.removeEventListener('dblclick', double);
      canvas.removeEventListener('pointerleave', leave);
      window.removeEventListener('cenote-key', key);
    };
  }, [scene, canvas, tool, armed, set]);
}

/** Without a tool a click selects what lies there. */
function lookTool({ scene }: ToolContext): PlateTool {
  let pressed: { x: number; y: number } | null = null;
  return {
    cursor: 'grab',
    holdsLeft: false,
    down: (event) => (pressed = { x: event.clientX, y: event.clientY }),
    up: (event) => {
      if (pressed && Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) < 4)
        choose(scene, event, scene.picker.surfaceAt(event.clientX, event.clientY));
      pressed = null;
    },
  };
}

function choose(scene: PlateScene, event: PointerEvent, hit: Hit | null) {
  const { items, select } = useSite.getState();
  const bench = useBench.getState();
  const depth = hit ? hit.point.distanceTo(scene.eye.camera.position) : Infinity;
  const open = steps.find(({ step }) => step === bench.step)?.kind;
  const found = open ? kinds[open].under?.(scene, event.clientX, event.clientY) : null;
  if (found && found.distance < depth) return select(found.key);
  const met = hit ? kindOf(items[hit.owner]?.plan) : undefined;
  if (hit && met?.step && !met.single) {
    bench.set({ step: met.step.name, tool: 'look' });
    select(hit.owner);
  }
}

function frame(scene: PlateScene) {
  const { selected } = useSite.getState();
  const extent = selected ? scene.picker.extent(selected) : null;
  if (extent) scene.eye.frame(extent.centre, extent.radius);
}

/** Ask why things stand, or do not stand, at a spot. */
async function explain(scene: PlateScene, x: number, y: number) {
  const hit = scene.picker.surfaceAt(x, y);
  if (!hit) return;
  const box = scene.eye.renderer.domElement.getBoundingClientRect();
  const { data } = await api.POST('/api/sites/{site_id}/why', {
    params: { path: { site_id: useSite.getState().id } },
    body: { owner: hit.owner, point: rounded(hit.point) },
  });
  if (data) useBench.getState().set({ why: { x: x - box.left, y: y - box.top, verdicts: data } });
}

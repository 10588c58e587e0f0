import { useEffect } from 'react';
import * as THREE from 'three';
import { freshDecal, freshPiece } from '../bench/fresh';
import type { PlanOf } from '../api/client';
import { useBench } from '../state/bench';
import { newKey, useSite } from '../state/site';
import type { Hit, PlateScene } from './PlateScene';
import { Ring } from './Ring';

const round = (v: THREE.Vector3): [number, number, number] => [Number(v.x.toFixed(3)), Number(v.y.toFixed(3)), Number(v.z.toFixed(3))];

/** What the pointer does in the plate: select, paint, thin, set down. */
export function usePointer(scene: PlateScene | null, canvas: HTMLCanvasElement | null) {
  const tool = useBench((s) => s.tool);
  const armed = useBench((s) => s.armed);
  const set = useBench((s) => s.set);

  useEffect(() => {
    if (!scene || !canvas) return;
    const ring = new Ring(scene);
    const painting = tool === 'more' || tool === 'less';
    scene.controls.mouseButtons.LEFT = painting ? null : THREE.MOUSE.ROTATE;
    let stroke: Stroke | null = null;
    let pressed: { x: number; y: number } | null = null;
    let turn = 0;

    const target = () => {
      const { selected, items } = useSite.getState();
      const kind = selected ? items[selected]?.plan.kind : null;
      return selected && (kind === 'drift' || kind === 'patina') ? selected : null;
    };

    const down = (event: PointerEvent) => {
      if (event.button !== 0) return;
      pressed = { x: event.clientX, y: event.clientY };
      const key = target();
      if (!painting || !key) return;
      const hit = scene.surfaceAt(event.clientX, event.clientY);
      if (!hit) return;
      canvas.setPointerCapture(event.pointerId);
      stroke = { owner: hit.owner, points: [scene.toLocal(hit.owner, hit.point)], target: key, key: newKey('touch') };
      previewStroke(stroke);
    };
    const move = (event: PointerEvent) => {
      const hit = painting || armed ? scene.surfaceAt(event.clientX, event.clientY) : null;
      if (painting) {
        ring.show(hit, useBench.getState().brush.radius);
        set({ hovered: hit ? { text: `brush ${useBench.getState().brush.radius.toFixed(2)} m` } : null });
      } else if (armed) {
        ring.show(hit, 0.25);
        set({ hovered: hit ? { text: `here: ${hit.point.x.toFixed(2)} east, ${hit.point.y.toFixed(2)} up, ${hit.point.z.toFixed(2)} south${turn ? `, turned ${turn}°` : ''}` } : null });
      }
      if (stroke && hit && hit.owner === stroke.owner) {
        const point = scene.toLocal(hit.owner, hit.point);
        const last = stroke.points[stroke.points.length - 1];
        if (point.distanceTo(last) > useBench.getState().brush.radius * 0.2 && stroke.points.length < 4000) {
          stroke.points.push(point);
          previewStroke(stroke);
        }
      }
    };
    const up = (event: PointerEvent) => {
      if (event.button !== 0) return;
      if (stroke) {
        canvas.releasePointerCapture(event.pointerId);
        keepStroke(stroke);
        stroke = null;
      } else if (pressed && Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) < 4) {
        const hit = scene.surfaceAt(event.clientX, event.clientY);
        if (armed && hit) place(armed, hit, turn);
        else if (!painting) choose(scene, event, hit);
      }
      pressed = null;
    };
    const leave = () => {
      ring.show(null, 1);
      set({ hovered: null });
    };
    const key = (event: Event) => {
      const pressedKey = (event as CustomEvent<string>).detail;
      if (pressedKey === ',' || pressedKey === '.') {
        turn = (turn + (pressedKey === '.' ? 15 : -15) + 360) % 360;
        set({ hovered: { text: `turned ${turn}° before placing` } });
      }
      const { selected } = useSite.getState();
      if (pressedKey === 'f' && selected) {
        const extent = scene.extent(selected);
        if (extent) scene.frame(extent.centre, extent.radius);
      }
    };
    canvas.addEventListener('pointerdown', down);
    canvas.addEventListener('pointermove', move);
    canvas.addEventListener('pointerup', up);
    canvas.addEventListener('pointerleave', leave);
    window.addEventListener('cenote-key', key);
    canvas.style.cursor = painting ? 'none' : armed ? 'crosshair' : 'grab';
    return () => {
      // A stroke in the middle of which the tool or the page goes is kept, not lost.
      if (stroke) keepStroke(stroke);
      ring.dispose();
      canvas.removeEventListener('pointerdown', down);
      canvas.removeEventListener('pointermove', move);
      canvas.removeEventListener('pointerup', up);
      canvas.removeEventListener('pointerleave', leave);
      window.removeEventListener('cenote-key', key);
    };
  }, [scene, canvas, tool, armed, set]);
}

interface Stroke {
  owner: string;
  points: THREE.Vector3[];
  target: string;
  key: string;
}

function strokePlan(stroke: Stroke): PlanOf<'touch'> {
  const { brush, tool } = useBench.getState();
  const { items } = useSite.getState();
  const orders = Object.values(items).flatMap((i) => (i.plan.kind === 'touch' ? [i.plan.order] : []));
  return {
    kind: 'touch', name: 'stroke', note: '', visible: true, locked: false, target: stroke.target, action: tool === 'less' ? 'less' : 'more',
    owner: stroke.owner, points: stroke.points.map(round), radius: brush.radius, strength: brush.strength, falloff: brush.falloff,
    order: Math.max(0, ...orders) + 1,
  };
}

function keepStroke(stroke: Stroke) {
  const { items, commit } = useSite.getState();
  const plan = strokePlan(stroke);
  const name = items[stroke.target]?.plan.name ?? '';
  commit(plan.action === 'more' ? `paint ${name}` : `thin ${name}`, [{ key: stroke.key, plan }]);
}

/** The stroke so far, shown at once and not yet kept. */
function previewStroke(stroke: Stroke) {
  useSite.getState().draft(stroke.key, strokePlan(stroke));
}

function place(armed: { id: string; title: string }, hit: Hit, turn: number) {
  const { items, commit } = useSite.getState();
  const titles = useBench.getState();
  if (titles.step === 'Decals') {
    const key = newKey('decal');
    commit('place a decal', [{ key, plan: freshDecal(items, armed.id, armed.title, round(hit.point), round(hit.normal), hit.owner) }]);
    useSite.getState().select(key);
    titles.set({ tool: 'look', armed: null });
    return;
  }
  const key = newKey('piece');
  commit('place a piece', [{ key, plan: freshPiece(items, armed.id, armed.title, round(hit.point), turn) }]);
  useSite.getState().say('Placed. Click again for another; Esc when done.');
}

function choose(scene: PlateScene, event: PointerEvent, hit: Hit | null) {
  const { items, select } = useSite.getState();
  const bench = useBench.getState();
  const drift = scene.driftAt(event.clientX, event.clientY);
  const depth = hit ? hit.point.distanceTo(scene.camera.position) : Infinity;
  if (drift && drift.distance < depth && bench.step === 'Drifts') return select(drift.key);
  if (hit && items[hit.owner]?.plan.kind === 'piece') {
    bench.set({ step: 'Pieces', tool: 'look' });
    select(hit.owner);
  }
}

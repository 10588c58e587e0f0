import { Box } from '@mui/material';
import { useEffect, useReducer, useRef, type KeyboardEvent, type PointerEvent } from 'react';
import type { ItemPlan } from '../../api/client';
import { kindOf } from '../../kinds';
import type { Grip } from '../../kinds/kind';
import { useBench } from '../../state/bench';
import { useSite } from '../../state/site';
import { ink, mono } from '../../theme';
import { arrowOf } from '../../plate/arrows';
import type { PlateScene } from '../../plate/PlateScene';

/** Pixels between handles, at least. */
const APART = 34;

/** Culled marks on the selected piece or decal: one to move, one to turn, one to size. */
export function Handles({ scene }: { scene: PlateScene }) {
  const [, redraw] = useReducer((n: number) => n + 1, 0);
  const key = useSite((s) => s.selected);
  const plan = useSite((s) => (s.selected ? (s.drafts[s.selected] ?? s.items[s.selected]?.plan) : undefined));
  const draft = useSite((s) => s.draft);
  const commit = useSite((s) => s.commit);
  const tool = useBench((s) => s.tool);
  const view = useBench((s) => s.view);
  const held = useRef<{ grip: Grip; start: ItemPlan; last: ItemPlan; radius: number } | null>(null);
  useEffect(() => scene.eye.watch(redraw), [scene]);
  const handles = kindOf(plan)?.handles;
  if (!key || !plan || !handles || tool !== 'look' || plan.locked || view === 'mask') return null;

  const places = handles.places(scene, key, plan);
  const middle = places.move;

  const grab = (grip: Grip) => (event: PointerEvent<HTMLDivElement>) => {
    event.preventDefault();
    event.currentTarget.setPointerCapture(event.pointerId);
    held.current = {
      grip,
      start: plan,
      last: plan,
      radius: Math.max(0.05, (places.size ?? middle).distanceTo(middle)),
    };
  };
  const drag = (event: PointerEvent<HTMLDivElement>) => {
    const now = held.current;
    if (!now) return;
    const next = handles.drag(scene, key, now.start, now.grip, event, now.radius);
    if (!next) return;
    now.last = next;
    draft(key, next);
    for (const other of handles.along?.(scene, key, now.start, next) ?? [])
      if (other.plan) kindOf(other.plan)?.draft?.(scene, other.key, other.plan);
  };
  const drop = (event: PointerEvent<HTMLDivElement>) => {
    const now = held.current;
    held.current = null;
    if (!now) return;
    event.currentTarget.releasePointerCapture(event.pointerId);
    const word = { move: 'move', turn: 'turn', size: 'size' }[now.grip];
    const along = handles.along?.(scene, key, now.start, now.last) ?? [];
    if (now.last !== now.start) commit(`${word} ${now.start.name}`, [{ key, plan: now.last }, ...along]);
  };

  const press = (grip: Grip) => (event: KeyboardEvent<HTMLDivElement>) => {
    const arrow = arrowOf(event);
    if (!arrow) return;
    const next = handles.step(scene, plan, grip, arrow);
    commit(`${grip} ${plan.name}`, [{ key, plan: next }, ...(handles.along?.(scene, key, plan, next) ?? [])]);
  };

  const outline = (handles.outline?.(plan) ?? []).map((p) => scene.picker.onScreen(p));
  return (
    <Box sx={{ position: 'absolute', inset: 0, pointerEvents: 'none' }}>
      {outline.length === 4 && outline.every(Boolean) && (
        <svg width="100%" height="100%" style={{ position: 'absolute' }}>
          <polygon
            points={outline.map((p) => `${p!.x},${p!.y}`).join(' ')}
            fill="none"
            stroke="#fff"
            strokeWidth={1.2}
            strokeDasharray="5 4"
          />
        </svg>
      )}
      {(Object.keys(places) as Grip[]).map((grip) => {
        const at = apart(
          scene.picker.onScreen(places[grip]!),
          grip === 'move' ? null : scene.picker.onScreen(places.move),
        );
        if (!at) return null;
        return (
          <Box
            key={grip}
            data-grip={grip}
            role="button"
            tabIndex={0}
            aria-label={`${grip} ${plan.name}: drag, or arrow keys, with Shift further`}
            onKeyDown={press(grip)}
            onPointerDown={grab(grip)}
            onPointerMove={drag}
            onPointerUp={drop}
            onPointerCancel={drop}
            sx={{
              position: 'absolute',
              left: at.x,
              top: at.y,
              transform: 'translate(-50%, -50%)',
              pointerEvents: 'auto',
              touchAction: 'none',
              cursor: 'grab',
              bgcolor: grip === 'move' ? ink.water : ink.panel,
              color: grip === 'move' ? '#fff' : ink.ink,
              border: `1.5px solid ${grip === 'move' ? '#fff' : ink.ink}`,
              borderRadius: grip === 'turn' ? '50%' : 0,
              minWidth: 16,
              height: 16,
              px: 0.5,
              display: 'grid',
              placeItems: 'center',
              fontFamily: mono,
              fontSize: 9.5,
              userSelect: 'none',
            }}
          >
            {grip}
          </Box>
        );
      })}
    </Box>
  );
}

/** From afar the handles would lie on each other: they keep a distance that can be hit. */
function apart(at: { x: number; y: number } | null, from: { x: number; y: number } | null) {
  if (!at || !from) return at;
  const dx = at.x - from.x,
    dy = at.y - from.y,
    length = Math.hypot(dx, dy);
  if (length >= APART) return at;
  const [ux, uy] = length < 1 ? [0, 1] : [dx / length, dy / length];
  return { x: from.x + ux * APART, y: from.y + uy * APART };
}

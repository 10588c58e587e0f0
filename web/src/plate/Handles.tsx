import { Box } from '@mui/material';
import { useEffect, useReducer, useRef, type KeyboardEvent, type PointerEvent } from 'react';
import * as THREE from 'three';
import type { ItemPlan, PlanOf } from '../api/client';
import { useBench } from '../state/bench';
import { useSite } from '../state/site';
import { ink, mono } from '../theme';
import { arrowOf, overGround } from './arrows';
import type { PlateScene } from './PlateScene';

type Held = PlanOf<'piece'> | PlanOf<'decal'>;
type Grip = 'move' | 'turn' | 'size';

const V = (p: readonly number[]) => new THREE.Vector3(p[0], p[1], p[2]);
/** What one press of an arrow key does: metres, degrees, share. */
const MOVE_STEP = 0.05,
  TURN_STEP = 1,
  SIZE_STEP = 0.02;
/** Pixels between handles, at least. */
const APART = 34;

const tidy = (v: number, digits = 3) => Number(v.toFixed(digits));

/** Axes of a decal's picture; the same as the core's decal_frame. */
function frameOf(plan: PlanOf<'decal'>) {
  const out = V(plan.facing).normalize();
  const reference = Math.abs(out.y) < 0.95 ? new THREE.Vector3(0, 1, 0) : new THREE.Vector3(0, 0, -1);
  const right = new THREE.Vector3().crossVectors(reference, out).normalize();
  const up = new THREE.Vector3().crossVectors(out, right);
  const t = THREE.MathUtils.degToRad(plan.turn);
  return {
    out,
    plainRight: right.clone(),
    plainUp: up.clone(),
    right: right.clone().multiplyScalar(Math.cos(t)).addScaledVector(up, Math.sin(t)),
    up: up.clone().multiplyScalar(Math.cos(t)).addScaledVector(right, -Math.sin(t)),
  };
}

/** Survey marks on the selected piece or decal: one to move, one to turn, one to size. */
export function Handles({ scene }: { scene: PlateScene }) {
  const [, redraw] = useReducer((n: number) => n + 1, 0);
  const key = useSite((s) => s.selected);
  const plan = useSite((s) => (s.selected ? (s.drafts[s.selected] ?? s.items[s.selected]?.plan) : undefined));
  const draft = useSite((s) => s.draft);
  const commit = useSite((s) => s.commit);
  const tool = useBench((s) => s.tool);
  const view = useBench((s) => s.view);
  const held = useRef<{ grip: Grip; start: Held; last: Held; radius: number } | null>(null);
  useEffect(() => scene.watch(redraw), [scene]);
  if (
    !key ||
    !plan ||
    (plan.kind !== 'piece' && plan.kind !== 'decal') ||
    tool !== 'look' ||
    plan.locked ||
    view === 'mask'
  )
    return null;

  const lift = plan.kind === 'piece' ? scene.liftOf(key, plan) : 0;
  const middle = V(plan.position).add(new THREE.Vector3(0, lift, 0));
  const places: Record<Grip, THREE.Vector3> =
    plan.kind === 'piece' ? piecePlaces(scene, key, plan, middle) : decalPlaces(plan);

  const grab = (grip: Grip) => (event: PointerEvent<HTMLDivElement>) => {
    event.preventDefault();
    event.currentTarget.setPointerCapture(event.pointerId);
    held.current = { grip, start: plan, last: plan, radius: Math.max(0.05, places.size.distanceTo(middle)) };
  };
  const drag = (event: PointerEvent<HTMLDivElement>) => {
    const now = held.current;
    if (!now) return;
    const next =
      now.start.kind === 'piece'
        ? dragPiece(scene, key, now.start, now.grip, event, now.radius)
        : dragDecal(scene, now.start, now.grip, event);
    if (!next) return;
    now.last = next;
    draft(key, next as ItemPlan);
  };
  const drop = (event: PointerEvent<HTMLDivElement>) => {
    const now = held.current;
    held.current = null;
    if (!now) return;
    event.currentTarget.releasePointerCapture(event.pointerId);
    const word = { move: 'move', turn: 'turn', size: 'size' }[now.grip];
    if (now.last !== now.start) commit(`${word} ${now.start.name}`, [{ key, plan: now.last as ItemPlan }]);
  };

  const press = (grip: Grip) => (event: KeyboardEvent<HTMLDivElement>) => {
    const arrow = arrowOf(event);
    if (!arrow) return;
    const next = plan.kind === 'piece' ? stepPiece(scene, plan, grip, arrow) : stepDecal(plan, grip, arrow);
    commit(`${grip} ${plan.name}`, [{ key, plan: next as ItemPlan }]);
  };

  const outline = plan.kind === 'decal' ? decalCorners(plan).map((p) => scene.onScreen(p)) : [];
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
        const at = apart(scene.onScreen(places[grip]), grip === 'move' ? null : scene.onScreen(places.move));
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

function piecePlaces(
  scene: PlateScene,
  key: string,
  plan: PlanOf<'piece'>,
  middle: THREE.Vector3,
): Record<Grip, THREE.Vector3> {
  const extent = scene.extent(key);
  const reach = Math.min(Math.max((extent?.radius ?? 1) * 0.75, 0.5), 3);
  const t = THREE.MathUtils.degToRad(plan.turn);
  const front = new THREE.Vector3(Math.sin(t), 0, Math.cos(t));
  return {
    move: middle.clone(),
    turn: middle.clone().addScaledVector(front, reach),
    size: middle.clone().add(new THREE.Vector3(0, Math.min((extent?.top ?? middle.y + 1) - middle.y, 4) + 0.15, 0)),
  };
}

function dragPiece(
  scene: PlateScene,
  key: string,
  start: PlanOf<'piece'>,
  grip: Grip,
  event: PointerEvent,
  radius: number,
): Held | null {
  if (grip === 'move') {
    const hit = scene.surfaceAt(event.clientX, event.clientY, key);
    if (!hit) return null;
    const ground = scene.groundHeight(hit.point.x, hit.point.z);
    return {
      ...start,
      position: [tidy(hit.point.x), tidy(hit.point.y), tidy(hit.point.z)],
      ground_at: ground === null ? null : tidy(ground, 4),
    };
  }
  const middle = V(start.position).add(new THREE.Vector3(0, scene.liftOf(key, start), 0));
  const plane = grip === 'turn' ? new THREE.Plane(new THREE.Vector3(0, 1, 0), -middle.y) : facingPlane(scene, middle);
  const at = onPlane(scene, event, plane);
  if (!at) return null;
  if (grip === 'turn')
    return { ...start, turn: tidy(THREE.MathUtils.radToDeg(Math.atan2(at.x - middle.x, at.z - middle.z)), 1) };
  const grown = Math.max(0.05, at.y - middle.y) / radius;
  return { ...start, size: tidy(Math.min(1000, Math.max(0.01, start.size * grown))) };
}

/** A piece a step further: over the ground, round, or larger and smaller. */
function stepPiece(scene: PlateScene, plan: PlanOf<'piece'>, grip: Grip, arrow: [number, number]): Held {
  if (grip === 'turn') return { ...plan, turn: tidy(plan.turn + (arrow[0] || arrow[1]) * TURN_STEP, 1) };
  if (grip === 'size')
    return {
      ...plan,
      size: tidy(Math.min(1000, Math.max(0.01, plan.size * (1 + (arrow[0] || arrow[1]) * SIZE_STEP)))),
    };
  const from = V(plan.position);
  const to = from.clone().add(overGround(scene, arrow, MOVE_STEP));
  const before = scene.groundHeight(from.x, from.z),
    ground = scene.groundHeight(to.x, to.z);
  if (before !== null && ground !== null) to.y += ground - before;
  return {
    ...plan,
    position: [tidy(to.x), tidy(to.y), tidy(to.z)],
    ground_at: ground === null ? null : tidy(ground, 4),
  };
}

/** A decal a step further: along its own picture, round, or larger and smaller. */
function stepDecal(plan: PlanOf<'decal'>, grip: Grip, arrow: [number, number]): Held {
  const by = arrow[0] || arrow[1];
  if (grip === 'turn') return { ...plan, turn: tidy(plan.turn + by * TURN_STEP, 1) };
  if (grip === 'size') {
    const grown = (v: number) => tidy(Math.min(100, Math.max(0.02, v * (1 + by * SIZE_STEP))));
    return { ...plan, width: grown(plan.width), height: grown(plan.height) };
  }
  const { plainRight, plainUp } = frameOf(plan);
  const to = V(plan.position)
    .addScaledVector(plainRight, arrow[0] * MOVE_STEP)
    .addScaledVector(plainUp, arrow[1] * MOVE_STEP);
  return { ...plan, position: [tidy(to.x), tidy(to.y), tidy(to.z)] };
}

function decalCorners(plan: PlanOf<'decal'>): THREE.Vector3[] {
  const { right, up } = frameOf(plan);
  const at = (x: number, y: number) =>
    V(plan.position)
      .addScaledVector(right, (x * plan.width) / 2)
      .addScaledVector(up, (y * plan.height) / 2);
  return [at(-1, -1), at(1, -1), at(1, 1), at(-1, 1)];
}

function decalPlaces(plan: PlanOf<'decal'>): Record<Grip, THREE.Vector3> {
  const { up } = frameOf(plan);
  const middle = V(plan.position);
  return {
    move: middle,
    turn: middle.clone().addScaledVector(up, plan.height / 2 + 0.18),
    size: decalCorners(plan)[1],
  };
}

function dragDecal(scene: PlateScene, start: PlanOf<'decal'>, grip: Grip, event: PointerEvent): Held | null {
  if (grip === 'move') {
    const hit = scene.surfaceAt(event.clientX, event.clientY);
    if (!hit) return null;
    return {
      ...start,
      position: [tidy(hit.point.x), tidy(hit.point.y), tidy(hit.point.z)],
      facing: [tidy(hit.normal.x), tidy(hit.normal.y), tidy(hit.normal.z)],
    };
  }
  const { out, right, up, plainRight, plainUp } = frameOf(start);
  const middle = V(start.position);
  const at = onPlane(scene, event, new THREE.Plane().setFromNormalAndCoplanarPoint(out, middle));
  if (!at) return null;
  const delta = at.sub(middle);
  if (grip === 'turn')
    return {
      ...start,
      turn: tidy(THREE.MathUtils.radToDeg(Math.atan2(-delta.dot(plainRight), delta.dot(plainUp))), 1),
    };
  return {
    ...start,
    width: tidy(Math.min(100, Math.max(0.02, Math.abs(delta.dot(right)) * 2))),
    height: tidy(Math.min(100, Math.max(0.02, Math.abs(delta.dot(up)) * 2))),
  };
}

function facingPlane(scene: PlateScene, through: THREE.Vector3) {
  const normal = scene.camera.position.clone().sub(through).setY(0).normalize();
  return new THREE.Plane().setFromNormalAndCoplanarPoint(normal, through);
}

function onPlane(scene: PlateScene, event: PointerEvent, plane: THREE.Plane): THREE.Vector3 | null {
  return scene.rayAt(event.clientX, event.clientY).intersectPlane(plane, new THREE.Vector3());
}

import { Box, Typography } from '@mui/material';
import { useEffect, useReducer, useState } from 'react';
import * as THREE from 'three';
import type { ItemPlan, PlanOf } from '../../api/client';
import { type P3, useBench, useBenchParts } from '../../state/bench';
import { useSite } from '../../state/site';
import { ink, mono } from '../../theme';
import { arrowOf, overGround } from '../../plate/arrows';
import type { PlateScene } from '../../plate/PlateScene';

const MOST = 300;
/** Metres that one press of an arrow key moves a mark. */
const STEP = 0.1;
const V = (p: readonly number[]) => new THREE.Vector3(p[0], p[1], p[2]);

/** What is drawn over the picture: picked things, lines being drawn, the section line, snags, places of ground forms. */
export function Marks({ scene }: { scene: PlateScene }) {
  const [, redraw] = useReducer((n: number) => n + 1, 0);
  const [outline, setOutline] = useState<[number, number][] | null>(null);
  const { picked, drawing, marked, section, step, set } = useBenchParts(
    'picked',
    'drawing',
    'marked',
    'section',
    'step',
    'set',
  );
  useEffect(() => scene.eye.watch(redraw), [scene]);
  useEffect(() => {
    scene.picker.onOutline = setOutline;
    return () => {
      scene.picker.onOutline = () => undefined;
    };
  }, [scene]);
  const at = (p: P3) => scene.picker.onScreen(V(p));
  const box = scene.eye.renderer.domElement.getBoundingClientRect();
  const line = (points: P3[]) =>
    points
      .map(at)
      .filter((p) => p !== null)
      .map((p) => `${p.x},${p.y}`)
      .join(' ');
  const height = (x: number, z: number) => scene.picker.groundHeight(x, z) ?? 0;
  const marks = picked || marked.length || drawing || outline || section;
  const ends =
    section &&
    (['start', 'end'] as const).map((end) => ({
      end,
      place: [section[end][0], height(...section[end]), section[end][1]] as P3,
    }));
  return (
    <>
      {marks && (
        <svg width="100%" height="100%" style={{ position: 'absolute', inset: 0, pointerEvents: 'none' }} data-marks>
          {picked?.places.slice(0, MOST).map((p, k) => {
            const s = at(p);
            return (
              s && <circle key={k} cx={s.x} cy={s.y} r={5} fill="none" stroke="#fff" strokeWidth={1.6} data-picked />
            );
          })}
          {marked.slice(0, MOST).map((p, k) => {
            const s = at(p);
            return (
              s && <path key={k} d={`M${s.x - 6},${s.y - 10} h12 l-6,10 z`} fill={ink.ochre} stroke="#fff" data-snag />
            );
          })}
          {drawing && (
            <polyline points={line(drawing.points)} fill="none" stroke="#fff" strokeWidth={1.8} strokeDasharray="6 4" />
          )}
          {drawing?.points.map((p, k) => {
            const s = at(p);
            return (
              s && <rect key={k} x={s.x - 3.5} y={s.y - 3.5} width={7} height={7} fill={ink.panel} stroke={ink.ink} />
            );
          })}
          {outline && (
            <polygon
              points={outline.map(([x, y]) => `${x - box.left},${y - box.top}`).join(' ')}
              fill="#0B5C6622"
              stroke="#fff"
              strokeDasharray="5 4"
            />
          )}
          {ends && (
            <polyline
              points={line(along(ends[0].place, ends[1].place, height))}
              fill="none"
              stroke="#fff"
              strokeWidth={1.4}
              strokeDasharray="12 3 2 3"
            />
          )}
        </svg>
      )}
      {ends?.map(({ end, place }) => (
        <Grip
          key={end}
          scene={scene}
          place={place}
          label={end === 'start' ? 'A' : 'A′'}
          name={`section ${end}`}
          onMove={(p) => section && set({ section: { ...section, [end]: [p[0], p[2]] } })}
        />
      ))}
      {step === 'Ground' && <FormGrips scene={scene} height={height} />}
    </>
  );
}

/** Points along a line on the ground, so that it lies on the relief. */
function along(a: P3, b: P3, height: (x: number, z: number) => number): P3[] {
  return Array.from({ length: 33 }, (_, k) => {
    const t = k / 32,
      x = a[0] + (b[0] - a[0]) * t,
      z = a[2] + (b[2] - a[2]) * t;
    return [x, height(x, z) + 0.02, z];
  });
}

interface GripProps {
  scene: PlateScene;
  place: P3;
  label: string;
  name: string;
  onMove: (place: P3) => void;
  onDone?: () => void;
}

/** A mark on the ground that can be dragged over it. */
function Grip({ scene, place, label, name, onMove, onDone }: GripProps) {
  const s = scene.picker.onScreen(V(place));
  if (!s) return null;
  return (
    <Box
      role="button"
      tabIndex={0}
      aria-label={`${name}: drag, or arrow keys, with Shift further`}
      data-mark={name}
      onKeyDown={(e) => {
        const arrow = arrowOf(e);
        if (!arrow) return;
        const to = V(place).add(overGround(scene, arrow, STEP));
        onMove([Number(to.x.toFixed(2)), Number(to.y.toFixed(2)), Number(to.z.toFixed(2))]);
        onDone?.();
      }}
      onPointerDown={(e) => {
        e.preventDefault();
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={(e) => {
        if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
        const hit = scene.picker.surfaceAt(e.clientX, e.clientY, undefined, 'ground');
        if (hit)
          onMove([Number(hit.point.x.toFixed(2)), Number(hit.point.y.toFixed(2)), Number(hit.point.z.toFixed(2))]);
      }}
      onPointerUp={(e) => {
        e.currentTarget.releasePointerCapture(e.pointerId);
        onDone?.();
      }}
      sx={{
        position: 'absolute',
        left: s.x,
        top: s.y,
        transform: 'translate(-50%, -50%)',
        minWidth: 16,
        height: 16,
        px: 0.5,
        display: 'grid',
        placeItems: 'center',
        bgcolor: ink.panel,
        border: `1.4px solid ${ink.ink}`,
        cursor: 'grab',
        touchAction: 'none',
        userSelect: 'none',
      }}
    >
      <Typography sx={{ fontFamily: mono, fontSize: 9.5, lineHeight: 1 }}>{label}</Typography>
    </Box>
  );
}

type Form = PlanOf<'ground'>['forms'][number];

/** The places of each ground form, to be dragged. */
function FormGrips({ scene, height }: { scene: PlateScene; height: (x: number, z: number) => number }) {
  const plan = useSite((s) => (s.drafts.ground ?? s.items.ground?.plan) as PlanOf<'ground'> | undefined);
  const draft = useSite((s) => s.draft);
  const commit = useSite((s) => s.commit);
  const tool = useBench((s) => s.tool);
  if (!plan || tool !== 'look') return null;
  const put = (index: number, form: Form) =>
    draft('ground', { ...plan, forms: plan.forms.map((f, k) => (k === index ? form : f)) } as ItemPlan);
  const done = (form: Form) => () => {
    const now = useSite.getState().drafts.ground;
    if (now) commit(`move the ${form.form}`, [{ key: 'ground', plan: now }]);
  };
  return (
    <>
      {plan.forms.flatMap((form, k) =>
        gripsOf(form).map(({ name, at, moved }) => (
          <Grip
            key={`${k} ${name}`}
            scene={scene}
            place={[at[0], height(at[0], at[1]), at[1]]}
            label={`${k + 1}${name}`}
            name={`${form.form} ${k + 1} ${name}`}
            onMove={(p) => put(k, moved([p[0], p[2]]))}
            onDone={done(form)}
          />
        )),
      )}
    </>
  );
}

type P2 = [number, number];

function gripsOf(form: Form): { name: string; at: P2; moved: (p: P2) => Form }[] {
  if (form.form === 'terrace')
    return [
      { name: 'a', at: form.start, moved: (start) => ({ ...form, start }) },
      { name: 'b', at: form.end, moved: (end) => ({ ...form, end }) },
    ];
  if (form.form === 'cut')
    return form.line.map((at, n) => ({
      name: `·${n + 1}`,
      at,
      moved: (p) => ({ ...form, line: form.line.map((q, m) => (m === n ? p : q)) }),
    }));
  if (form.form === 'pad') return [];
  const middle = { name: '', at: form.centre, moved: (centre: P2): Form => ({ ...form, centre }) };
  if (form.form === 'water') return [middle];
  const rim: P2 = [form.centre[0] + form.radius, form.centre[1]];
  return [
    middle,
    {
      name: 'r',
      at: rim,
      moved: (p) => ({
        ...form,
        radius: Number(Math.max(0.2, Math.hypot(p[0] - form.centre[0], p[1] - form.centre[1])).toFixed(2)),
      }),
    },
  ];
}

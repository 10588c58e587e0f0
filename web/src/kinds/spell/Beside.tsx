import { Box, Button, Typography } from '@mui/material';
import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { api, given, sentence, type ItemPlan, type Manifest } from '../../api/client';
import { takeWeather } from '../weather/part';
import type { PlateScene } from '../../plate/PlateScene';
import { useBench, useBenchParts } from '../../state/bench';
import { useManifest } from '../../state/derived';
import { useSite } from '../../state/site';
import { ink } from '../../theme';
import { stateOf, weatherOf, type Spell } from './spells';

/** A picture of another spell is waited for so long at most, milliseconds. */
const PATIENCE = 20_000;
const STEP = 0.05;
const pause = (ms: number) => new Promise((told) => window.setTimeout(told, ms));

/** Another spell beside the one that shows, with a divider between them that is dragged across the plate. */
export function Beside({ scene }: { scene: PlateScene }) {
  const { beside, set } = useBenchParts('beside', 'set');
  const items = useSite((s) => s.items);
  const spell = beside ? items[beside]?.plan : undefined;
  if (!beside || spell?.kind !== 'spell') return null;
  return <Divided key={beside} scene={scene} spell={beside} plan={spell} close={() => set({ beside: null })} />;
}

interface Sides {
  scene: PlateScene;
  spell: string;
  plan: Spell;
  close: () => void;
}

function Divided({ scene, spell, plan, close }: Sides) {
  const [at, setAt] = useState(0.5);
  const items = useSite((s) => s.items);
  const shown = items[weatherOf(items).spell]?.plan.name ?? 'as it shows';
  const picture = usePicture(scene, spell, plan);
  const frame = useRef<HTMLDivElement>(null);
  const follow = (event: PointerEvent) => {
    if (!event.buttons) return;
    const box = frame.current!.getBoundingClientRect();
    setAt(Math.min(1, Math.max(0, (event.clientX - box.left) / box.width)));
  };
  const step = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -STEP, ArrowRight: STEP }[event.key];
    if (by) setAt(Math.min(1, Math.max(0, at + by)));
    if (event.key === 'Escape') close();
  };
  const left = `${at * 100}%`;
  return (
    <Box ref={frame} sx={{ position: 'absolute', inset: 0, pointerEvents: 'none' }} data-beside={picture ? spell : ''}>
      {picture && (
        <Box
          component="img"
          src={picture}
          alt={`The site in the spell ${plan.name}`}
          sx={{
            position: 'absolute',
            inset: 0,
            width: '100%',
            height: '100%',
            clipPath: `inset(0 ${100 - at * 100}% 0 0)`,
          }}
        />
      )}
      <Box
        role="separator"
        aria-label="Divider between two spells"
        aria-orientation="vertical"
        aria-valuenow={Math.round(at * 100)}
        tabIndex={0}
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={follow}
        onKeyDown={step}
        sx={{
          position: 'absolute',
          top: 0,
          bottom: 0,
          left,
          width: 13,
          ml: '-6px',
          cursor: 'ew-resize',
          pointerEvents: 'auto',
        }}
      >
        <Box sx={{ width: 2, height: '100%', mx: 'auto', bgcolor: ink.panel, outline: `1px solid ${ink.line}` }} />
      </Box>
      <Label side="left" at={left}>
        {picture ? plan.name : `drawing ${plan.name}…`}
      </Label>
      <Label side="right" at={left}>
        {shown}
        <Button size="small" onClick={close} sx={{ pointerEvents: 'auto', ml: 1, minWidth: 0, p: 0 }}>
          Close
        </Button>
      </Label>
    </Box>
  );
}

function Label({ side, at, children }: { side: 'left' | 'right'; at: string; children: React.ReactNode }) {
  const place = side === 'left' ? { right: `calc(100% - ${at} + 10px)` } : { left: `calc(${at} + 10px)` };
  return (
    <Typography
      sx={{ position: 'absolute', bottom: 44, ...place, px: 1, fontSize: 12, whiteSpace: 'nowrap', bgcolor: ink.panel }}
    >
      {children}
    </Typography>
  );
}

/** A picture of the plate as it would be in another spell, taken again whenever the eye rests elsewhere. */
function usePicture(scene: PlateScene, spell: string, plan: Spell): string | null {
  const [picture, setPicture] = useState<string | null>(null);
  const [moves, setMoves] = useState(0);
  const taking = useRef<Promise<void>>(Promise.resolve());
  const manifest = useManifest().data;
  /** What is saved by the time a picture has been taken: it is gone back to, and not to what was. */
  const saved = useRef(manifest);
  useEffect(() => {
    saved.current = manifest;
  }, [manifest]);
  const id = useSite((s) => s.id);
  const station = useBench((s) => s.station);
  useEffect(() => {
    const { controls } = scene.eye;
    const begins = () => setPicture(null);
    const ends = () => setMoves((n) => n + 1);
    controls.addEventListener('start', begins);
    controls.addEventListener('end', ends);
    return () => {
      controls.removeEventListener('start', begins);
      controls.removeEventListener('end', ends);
    };
  }, [scene]);
  useEffect(() => {
    if (!manifest || !id) return;
    let stale = false;
    setPicture(null);
    const take = async () => {
      if (stale) return;
      const found = await api.GET('/api/sites/{site_id}/scene', {
        params: { path: { site_id: id }, query: { spell } },
      });
      const other = given(found) as unknown as Manifest;
      if (stale) return;
      const taken = await inSpell(scene, other, plan, () => stale);
      const now = plansNow();
      takeWeather(scene, now.weather);
      if (saved.current) await scene.sync(saved.current, now.plans);
      if (!stale) setPicture(taken);
    };
    // One after another: two at once would draw over each other.
    taking.current = taking.current.then(take).catch((error) => useSite.getState().say(sentence(error)));
    return () => {
      stale = true;
    };
  }, [scene, manifest, id, spell, plan, moves, station]);
  return picture;
}

/** The site as it is saved by now. */
function plansNow() {
  const { items } = useSite.getState();
  const plans: Record<string, ItemPlan> = Object.fromEntries(Object.values(items).map(({ key, plan }) => [key, plan]));
  return { plans, weather: weatherOf(items) };
}

/** Draw the site in another spell and keep the picture; given up as soon as it is no longer wanted. */
async function inSpell(scene: PlateScene, other: Manifest, plan: Spell, stale: () => boolean): Promise<string | null> {
  const { plans, weather } = plansNow();
  const there = { ...weather, ...stateOf(plan) };
  try {
    takeWeather(scene, there);
    await scene.sync(other, { ...plans, weather: there });
    await scene.frames.drawnNext();
    const until = performance.now() + PATIENCE;
    const coming = () => scene.eye.canvas.dataset.settled === 'false' && performance.now() < until;
    while (!stale() && coming()) await pause(100);
    return stale() ? null : scene.eye.canvas.toDataURL('image/png');
  } catch (error) {
    useSite.getState().say(sentence(error));
    return null;
  }
}

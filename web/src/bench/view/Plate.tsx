import { Box, ButtonBase, Typography } from '@mui/material';
import { useEffect, useRef, useState } from 'react';
import { useBench, useBenchParts } from '../../state/bench';
import { useJobs } from '../../state/derived';
import { useSite } from '../../state/site';
import { figure, ink, mono } from '../../theme';
import { usePlateScene } from '../../state/plate';
import { Beside } from '../../kinds/spell/Beside';
import { SectionStrip } from './SectionStrip';
import { Handles } from './Handles';
import { Marks } from './Marks';
import { ProofFrame } from './ProofFrame';
import { ProofView } from './ProofView';
import { partsOfKinds } from '../../kinds';
import type { PlateHost } from '../../plate/PlateContext';
import { PlateScene } from '../../plate/PlateScene';
import { plansOf, usePlateContent } from './usePlateContent';
import { usePointer } from './usePointer';
import { useWind } from './useWind';
import { Views } from './Views';
import { Stations } from './Stations';
import { WhyCard } from './WhyCard';

/** What the plate asks of this page. */
const page: PlateHost = {
  say: (sentence) => useSite.getState().say(sentence),
  undrawn: (undrawn) => {
    const { undrawn: before, set } = useBench.getState();
    if (JSON.stringify(undrawn) !== JSON.stringify(before)) set({ undrawn });
  },
  site: () => {
    const { id, items } = useSite.getState();
    return { id, plans: plansOf(items) };
  },
};

/** The view: the picture of the site inside its frame. */
export function Plate() {
  const canvas = useRef<HTMLCanvasElement>(null);
  const frame = useRef<HTMLDivElement>(null);
  const [scene, setScene] = useState<PlateScene | null>(null);
  const { hovered, set } = useBenchParts('hovered', 'set');

  useEffect(() => {
    if (!canvas.current || !frame.current) return;
    let made: PlateScene;
    try {
      made = new PlateScene(canvas.current, page, partsOfKinds);
    } catch {
      useSite.getState().say('This browser cannot draw in 3D (WebGL 2 is missing or switched off).');
      return;
    }
    // Three.js takes everything up again by itself; the picture is there with the next frame.
    made.eye.onLost = (lost) =>
      lost
        ? useSite
            .getState()
            .say(
              'The graphics card let go of the picture. It comes back by itself; if not, load the page again. Nothing is lost.',
            )
        : made.frames.redraw();
    made.frames.onFrame = (now) => set({ counts: now });
    const watch = new ResizeObserver(() => made.eye.resize(frame.current!.clientWidth, frame.current!.clientHeight));
    watch.observe(frame.current);
    made.eye.resize(frame.current.clientWidth, frame.current.clientHeight);
    setScene(made);
    usePlateScene.setState({ scene: made });
    return () => {
      watch.disconnect();
      made.dispose();
      setScene(null);
      usePlateScene.setState({ scene: null });
      set({ ready: false });
    };
  }, [set]);

  const ready = usePlateContent(scene);
  usePointer(scene, canvas.current);
  useWind(scene);
  const section = useBench((s) => s.section);

  return (
    <Box sx={{ display: 'grid', gridTemplateRows: section ? '1fr 128px' : '1fr', minWidth: 0, minHeight: 0 }}>
      <Box
        component="main"
        aria-label="Plate"
        sx={{ bgcolor: ink.grey, p: 1.5, minWidth: 0, minHeight: 0, display: 'flex' }}
      >
        <Box
          ref={frame}
          sx={{ position: 'relative', flex: 1, minWidth: 0, minHeight: 0, overflow: 'hidden', bgcolor: '#6f6f6f' }}
        >
          <canvas
            ref={canvas}
            data-ready={ready}
            tabIndex={0}
            aria-label="Picture of the site"
            style={{ display: 'block', width: '100%', height: '100%', outlineOffset: -2 }}
          />
          {!ready && (
            <Typography
              sx={{ position: 'absolute', inset: 0, m: 'auto', height: 24, textAlign: 'center', color: '#fff' }}
            >
              Setting out the site…
            </Typography>
          )}
          <Stalled />
          {scene && <Marks scene={scene} />}
          {scene && <Handles scene={scene} />}
          {scene && ready && <Beside scene={scene} />}
          <WhyCard />
          <ProofFrame scene={scene} />
          <Stations scene={scene} />
          <Views />
          <Box
            sx={{ ...slip, left: 10, bottom: 10, maxWidth: 'calc(100% - 240px)', display: hovered ? 'block' : 'none' }}
          >
            {hovered?.text}
          </Box>
          <Figures />
          <Dots />
          <ProofView />
        </Box>
      </Box>
      {section && <SectionStrip />}
    </Box>
  );
}

const slip = {
  position: 'absolute',
  bgcolor: ink.panel,
  border: `1px solid ${ink.line}`,
  px: 1,
  py: 0.25,
  fontFamily: mono,
  fontSize: 11.5,
  pointerEvents: 'none',
} as const;

/** A part of the picture does not come. */
function Stalled() {
  const { stalled } = useBenchParts('stalled');
  if (!stalled) return null;
  return (
    <Box
      role="alert"
      sx={{
        ...slip,
        pointerEvents: 'auto',
        left: '50%',
        top: 'calc(50% + 24px)',
        transform: 'translateX(-50%)',
        width: 'max-content',
        maxWidth: '80%',
        display: 'flex',
        alignItems: 'center',
        gap: 1,
        fontFamily: 'inherit',
        fontSize: 13,
        py: 0.75,
      }}
    >
      <span>Not all of the picture is here. {stalled.why}</span>
      <ButtonBase
        onClick={stalled.again}
        sx={{ px: 1, py: 0.4, fontSize: 12, whiteSpace: 'nowrap', border: `1px solid ${ink.line}` }}
      >
        Try again
      </ButtonBase>
    </Box>
  );
}

/** How heavy the picture is, and what is being worked on meanwhile. */
function Figures() {
  const { counts, arriving } = useBenchParts('counts', 'arriving');
  const jobs = useJobs();
  const working = jobs.find((j) => j.state === 'running') ?? jobs.find((j) => j.state === 'waiting');
  return (
    <Box sx={{ ...slip, right: 10, bottom: 10 }} data-counts>
      {arriving && <span role="status">setting out… · </span>}
      {figure(counts.things)} things · {figure(counts.drawn / 1e6, 2)} M tri
      {working ? ` · ${working.title} ${Math.round(working.share * 100)} %` : ''}
    </Box>
  );
}

/** What the dots of the density view mean. */
function Dots() {
  const { view, dots } = useBenchParts('view', 'dots');
  const selected = useSite((s) => (s.selected ? s.items[s.selected]?.plan : undefined));
  if (view !== 'density') return null;
  const of = selected?.kind === 'drift' ? selected.name : 'all drifts';
  return (
    <Box role="status" sx={{ ...slip, right: 10, top: 42 }}>
      {dots > 0
        ? `${of}: full dots at ${figure(dots, dots < 10 ? 1 : 0)} per m²`
        : `${of}: nothing stands on the ground`}
    </Box>
  );
}

import type { PlanOf } from '../../api/client';
import { Box, Typography } from '@mui/material';
import { useEffect, useLayoutEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { frameOf, nudged, pictureInPlate, proofSizes } from '../sheets/proof/frame';
import { type Box4, useBenchParts } from '../../state/bench';
import { useSite } from '../../state/site';
import { ink, mono } from '../../theme';
import type { PlateScene } from '../../plate/PlateScene';

const percent = (share: number) => `${share * 100}%`;
const steps: Record<string, [number, number]> = {
  ArrowLeft: [-0.01, 0],
  ArrowRight: [0.01, 0],
  ArrowUp: [0, -0.01],
  ArrowDown: [0, 0.01],
};

/** The part of the plate that the next proof makes: its rims, and the frame that may be drawn in it. */
export function ProofFrame({ scene }: { scene: PlateScene | null }) {
  const { step, station, proofSize, frame, framing, set } = useBenchParts(
    'step',
    'station',
    'proofSize',
    'frame',
    'framing',
    'set',
  );
  const sheet = useRef<HTMLDivElement>(null);
  const [room, setRoom] = useState<[number, number]>([1, 1]);
  const [from, setFrom] = useState<[number, number] | null>(null);
  const [to, setTo] = useState<[number, number] | null>(null);
  const shown = step === 'Proofs';

  useLayoutEffect(() => {
    const element = sheet.current;
    if (!element) return;
    const watch = new ResizeObserver(() => setRoom([element.clientWidth, element.clientHeight]));
    watch.observe(element);
    return () => watch.disconnect();
  }, [shown]);

  // A frame is drawn in what the station sees.
  useEffect(() => {
    const plan = station ? useSite.getState().items[station]?.plan : null;
    if (framing && scene && plan?.kind === 'station') scene.eye.lookFrom(plan as PlanOf<'station'>);
  }, [framing, station, scene]);

  if (!shown) return null;
  const [width, height] = proofSizes[proofSize];
  const picture = pictureInPlate(room[0], room[1], width, height);
  const tall = picture[3] - picture[1];
  const drawn = from && to ? frameOf(from, to, picture, width, height) : frame;
  const at = (event: PointerEvent): [number, number] => {
    const box = sheet.current!.getBoundingClientRect();
    return [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
  };
  const end = () => {
    if (from && to && drawn) set({ frame: drawn, framing: false });
    setFrom(null);
    setTo(null);
  };
  const onKey = (event: KeyboardEvent) => {
    const by = steps[event.key];
    if (!by || !frame) return;
    event.preventDefault();
    event.stopPropagation();
    set({ frame: nudged(frame, by[0], by[1], event.shiftKey) });
  };
  return (
    <Box
      ref={sheet}
      data-framing={framing}
      onPointerDown={(e) => {
        if (framing) {
          e.currentTarget.setPointerCapture(e.pointerId);
          setFrom(at(e));
          setTo(at(e));
        }
      }}
      onPointerMove={(e) => {
        if (from) setTo(at(e));
      }}
      onPointerUp={end}
      onPointerCancel={() => {
        setFrom(null);
        setTo(null);
      }}
      sx={{
        position: 'absolute',
        inset: 0,
        overflow: 'hidden',
        pointerEvents: framing ? 'auto' : 'none',
        cursor: framing ? 'crosshair' : 'default',
        touchAction: 'none',
      }}
    >
      <Box
        aria-hidden
        sx={{
          position: 'absolute',
          left: 0,
          right: 0,
          top: percent(picture[1]),
          height: percent(tall),
          borderTop: '1px dashed #fff',
          borderBottom: '1px dashed #fff',
          pointerEvents: 'none',
        }}
      >
        <Typography
          sx={{
            position: 'absolute',
            left: 8,
            bottom: 4,
            px: 0.75,
            fontFamily: mono,
            fontSize: 11,
            bgcolor: ink.panel,
            border: `1px solid ${ink.line}`,
          }}
        >
          the proof's picture, {width} × {height} px
        </Typography>
      </Box>
      {drawn && <FrameBox frame={drawn} picture={picture} onKey={onKey} />}
    </Box>
  );
}

function FrameBox({ frame, picture, onKey }: { frame: Box4; picture: Box4; onKey: (event: KeyboardEvent) => void }) {
  const [left, top, right, bottom] = frame;
  const tall = picture[3] - picture[1];
  return (
    <Box
      role="group"
      tabIndex={0}
      aria-label="Frame of the next proof. Arrow keys move it, with Shift they size it."
      onKeyDown={onKey}
      sx={{
        position: 'absolute',
        left: percent(left),
        width: percent(right - left),
        top: percent(picture[1] + top * tall),
        height: percent((bottom - top) * tall),
        border: `1.5px solid ${ink.water}`,
        outline: '1px solid #fff',
        boxShadow: '0 0 0 4000px rgba(32, 38, 43, 0.35)',
        pointerEvents: 'none',
        '&:focus-visible': { outline: `3px solid ${ink.water}` },
      }}
    />
  );
}

import { Box, Button, Typography } from '@mui/material';
import { useEffect, useRef, useState } from 'react';
import { fetchBytes, writeHeaders } from '../../api/client';
import { unpack, type Packet } from '../../api/packet';
import { useBenchParts } from '../../state/bench';
import { useAssets } from '../../state/derived';
import { itemsOf, useSite } from '../../state/site';
import { ink, mono } from '../../theme';
import { outlineOf, type Outline } from '../../ui/silhouette';

const HEIGHT = 128;
const FOOT = 14;
const tiers = ['canopy', 'shrub', 'cover', 'litter'];

interface Placed {
  drift: string;
  tier: string;
  x: number;
  y: number;
  wide: number;
  tall: number;
}

/** The strip under the plate: a true cut through the site, what stands near it drawn to height. */
export function SectionStrip() {
  const canvas = useRef<HTMLCanvasElement>(null);
  const frame = useRef<HTMLDivElement>(null);
  const { section, set } = useBenchParts('section', 'set');
  const id = useSite((s) => s.id);
  const revision = useSite((s) => s.revision);
  const items = useSite((s) => s.items);
  const selected = useSite((s) => s.selected);
  const select = useSite((s) => s.select);
  const assets = useAssets();
  const [packet, setPacket] = useState<Packet | null>(null);
  const [width, setWidth] = useState(600);
  const [outlines, setOutlines] = useState<Record<string, Outline>>({});
  const placed = useRef<Placed[]>([]);

  useEffect(() => {
    if (!section || !id) return;
    let stale = false;
    const timer = window.setTimeout(async () => {
      try {
        const data = await fetchBytes(`/api/sites/${id}/section`, {
          method: 'POST',
          headers: { 'Content-Type': 'application/json', ...writeHeaders() },
          body: JSON.stringify(section),
        });
        if (!stale) setPacket(unpack(data));
      } catch {
        /* The strip keeps what it shows; the next change asks again. */
      }
    }, 80);
    return () => {
      stale = true;
      window.clearTimeout(timer);
    };
  }, [section, id, revision]);

  useEffect(() => {
    if (!frame.current) return;
    const watch = new ResizeObserver(() => setWidth(frame.current?.clientWidth ?? 600));
    watch.observe(frame.current);
    return () => watch.disconnect();
  }, []);

  useEffect(() => {
    if (!packet) return;
    const wanted = new Set<string>();
    for (const { key, plan } of itemsOf(items, 'drift'))
      if (packet.arrays[`asset ${key}`]) plan.assets.forEach((a) => wanted.add(a.asset));
    const missing = [...wanted]
      .filter((a) => !outlines[a])
      .map((a) => assets.find((x) => x.id === a))
      .filter((a) => a !== undefined);
    if (!missing.length) return;
    let stale = false;
    void Promise.all(missing.map(async (asset) => [asset.id, await outlineOf(asset)] as const)).then(
      (found) => !stale && setOutlines((now) => ({ ...now, ...Object.fromEntries(found) })),
    );
    return () => {
      stale = true;
    };
  }, [packet, items, assets, outlines]);

  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context || !packet || !canvas.current) return;
    const ratio = Math.min(2, window.devicePixelRatio || 1);
    canvas.current.width = width * ratio;
    canvas.current.height = HEIGHT * ratio;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    placed.current = draw(
      context,
      packet,
      width,
      Object.fromEntries(itemsOf(items, 'drift').map((d) => [d.key, d.plan])),
      outlines,
      selected,
    );
  }, [packet, width, items, outlines, selected]);

  const click = (event: React.MouseEvent) => {
    const box = canvas.current!.getBoundingClientRect();
    const x = event.clientX - box.left,
      y = event.clientY - box.top;
    const hit = [...placed.current]
      .reverse()
      .find((p) => Math.abs(p.x - x) <= Math.max(3, p.wide / 2) && y <= p.y + 2 && y >= p.y - p.tall - 2);
    if (!hit) return;
    set({ step: 'Drifts' });
    select(hit.drift);
  };

  return (
    <Box
      ref={frame}
      component="section"
      aria-label="Section"
      sx={{
        bgcolor: ink.panel,
        borderTop: `1px solid ${ink.line}`,
        height: HEIGHT,
        position: 'relative',
        overflow: 'hidden',
      }}
    >
      <canvas
        ref={canvas}
        data-drawn={packet ? 'true' : 'false'}
        onClick={click}
        style={{ width: '100%', height: HEIGHT, display: 'block', cursor: 'pointer' }}
        aria-label="Cut through the site. Click a silhouette to select its drift."
      />
      <Box sx={{ position: 'absolute', top: 2, right: 6, display: 'flex', alignItems: 'center' }}>
        <Typography sx={{ fontFamily: mono, fontSize: 10.5, color: 'text.secondary' }}>
          {packet ? `${(packet.info.length as number).toFixed(1)} m · drag its ends in the plate` : 'cutting…'}
        </Typography>
        <Button
          color="inherit"
          aria-label="Fold the section"
          onClick={() => set({ section: null })}
          sx={{ px: 0.5, lineHeight: 1 }}
        >
          ×
        </Button>
      </Box>
    </Box>
  );
}

/** Ground and cut structures in ink, silhouettes by tier with their hatch, metre marks; returns where each stands. */
function draw(
  context: CanvasRenderingContext2D,
  packet: Packet,
  width: number,
  plans: Record<string, { tier: string; assets: { asset: string }[] }>,
  outlines: Record<string, Outline>,
  selected: string | null,
): Placed[] {
  context.clearRect(0, 0, width, HEIGHT);
  const length = packet.info.length as number;
  const ground = packet.arrays.ground as Float32Array;
  const left = 34,
    scale = (width - left - 8) / length;
  let low = Infinity,
    high = -Infinity;
  const see = (y: number) => {
    low = Math.min(low, y);
    high = Math.max(high, y);
  };
  for (let k = 1; k < ground.length; k += 2) see(ground[k]);
  const keys = Object.keys(packet.arrays)
    .filter((k) => k.startsWith('drift '))
    .map((k) => k.slice(6))
    .filter((k) => plans[k]);
  keys.sort((a, b) => tiers.indexOf(plans[a].tier) - tiers.indexOf(plans[b].tier));
  for (const key of keys) {
    const places = packet.arrays[`drift ${key}`] as Float32Array,
      which = packet.arrays[`asset ${key}`] as Int32Array;
    for (let k = 0; k < which.length; k++)
      see(places[k * 3 + 1] + (outlines[plans[key].assets[which[k]]?.asset]?.height ?? 0) * places[k * 3 + 2]);
  }
  for (const name of Object.keys(packet.arrays).filter((k) => k.startsWith('piece ')))
    (packet.arrays[name] as Float32Array).forEach((v, k) => k % 2 && see(v));
  // Heights keep the scale of lengths unless the strip is too low for them; then they are drawn flatter, and it is said.
  const tall = Math.min(scale, (HEIGHT - FOOT - 16) / Math.max(high - low, 0.5));
  const X = (s: number) => left + s * scale,
    Y = (y: number) => HEIGHT - FOOT - (y - low) * tall;
  marks(context, low, high, width, Y, tall, scale);
  const out: Placed[] = [];
  const grounded = () => {
    context.beginPath();
    for (let k = 0; k < ground.length; k += 2) {
      if (k) context.lineTo(X(ground[k]), Y(ground[k + 1]));
      else context.moveTo(X(ground[k]), Y(ground[k + 1]));
    }
  };
  for (const key of keys) {
    const { tier, assets } = plans[key];
    const places = packet.arrays[`drift ${key}`] as Float32Array,
      which = packet.arrays[`asset ${key}`] as Int32Array;
    const step = Math.max(1, Math.ceil(which.length / (tier === 'cover' || tier === 'litter' ? 260 : 80)));
    for (let k = 0; k < which.length; k += step) {
      const outline = outlines[assets[which[k]]?.asset];
      if (!outline) continue;
      const x = X(places[k * 3]),
        y = Y(places[k * 3 + 1]),
        size = places[k * 3 + 2];
      silhouette(context, outline, x, y, size * scale, size * tall, tier, key === selected);
      out.push({ drift: key, tier, x, y, wide: outline.width * size * scale, tall: outline.height * size * tall });
    }
  }
  context.fillStyle = ink.panel;
  context.strokeStyle = ink.ink;
  grounded();
  context.lineTo(X(length), HEIGHT);
  context.lineTo(left, HEIGHT);
  context.closePath();
  context.fill();
  grounded();
  context.lineWidth = 1.6;
  context.stroke();
  context.lineWidth = 1.1;
  for (const name of Object.keys(packet.arrays).filter((k) => k.startsWith('piece '))) {
    const cut = packet.arrays[name] as Float32Array;
    context.beginPath();
    for (let k = 0; k < cut.length; k += 4) {
      context.moveTo(X(cut[k]), Y(cut[k + 1]));
      context.lineTo(X(cut[k + 2]), Y(cut[k + 3]));
    }
    context.stroke();
  }
  return out;
}

function marks(
  context: CanvasRenderingContext2D,
  low: number,
  high: number,
  width: number,
  Y: (y: number) => number,
  tall: number,
  scale: number,
) {
  const step = [0.5, 1, 2, 5, 10, 20].find((s) => s * tall > 16) ?? 50;
  context.font = `9px ${mono}`;
  context.lineWidth = 0.6;
  for (let y = Math.ceil(low / step) * step; y <= high; y += step) {
    context.strokeStyle = ink.line;
    context.beginPath();
    context.moveTo(30, Y(y));
    context.lineTo(width, Y(y));
    context.stroke();
    context.fillStyle = ink.soft;
    context.fillText(`${Number(y.toFixed(1))} m`, 3, Y(y) + 3);
  }
  if (tall < scale * 0.97) context.fillText(`heights × ${(tall / scale).toFixed(2)}`, 36, 10);
}

const hatches: Record<string, { fill: string; gap: number }> = {
  canopy: { fill: '#CFCBBB', gap: 4 },
  shrub: { fill: '#C5C7B2', gap: 3 },
  cover: { fill: '#5A6066', gap: 0 },
  litter: { fill: '#8C5A0B', gap: 0 },
};

function silhouette(
  context: CanvasRenderingContext2D,
  outline: Outline,
  x: number,
  y: number,
  sx: number,
  sy: number,
  tier: string,
  on: boolean,
) {
  const { fill, gap } = hatches[tier] ?? hatches.cover;
  context.save();
  context.translate(x, y);
  context.scale(sx, -sy);
  const path = outline.path;
  context.fillStyle = on ? '#0B5C66' : fill;
  context.globalAlpha = on ? 0.85 : gap ? 1 : 0.75;
  context.fill(path, 'nonzero');
  context.restore();
  if (!gap || on) return;
  // Hatch: lines for shrubs, dots for canopies, within the silhouette.
  context.save();
  context.translate(x, y);
  context.scale(sx, -sy);
  context.clip(path, 'nonzero');
  context.scale(1 / sx, -1 / sy);
  context.strokeStyle = context.fillStyle = ink.ink;
  context.globalAlpha = 0.7;
  const w = (outline.width * sx) / 2 + 2,
    h = outline.height * sy + 2;
  if (tier === 'canopy')
    for (let a = -w; a < w; a += gap)
      for (let b = -h; b < 2; b += gap) context.fillRect(a + ((b / gap) % 2 ? 0 : gap / 2), b, 1, 1);
  else {
    context.lineWidth = 0.7;
    context.beginPath();
    for (let a = -w - h; a < w; a += gap) {
      context.moveTo(a, 2);
      context.lineTo(a + h, 2 - h);
    }
    context.stroke();
  }
  context.restore();
}

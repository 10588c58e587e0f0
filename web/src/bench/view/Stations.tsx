import { Box, ButtonBase, Tooltip } from '@mui/material';
import { useEffect, useRef } from 'react';
import type { PlanOf } from '../../api/client';
import { freshStation } from '../../kinds/station/fresh';
import { inOrder } from '../../kinds/station/order';
import { useBenchParts } from '../../state/bench';
import { useAssets } from '../../state/derived';
import { newKey, useSite } from '../../state/site';
import { ink } from '../../theme';
import type { PlateScene } from '../../plate/PlateScene';

const chip = (on: boolean) => ({
  px: 1,
  py: 0.4,
  fontSize: 12,
  flexShrink: 0,
  whiteSpace: 'nowrap',
  bgcolor: on ? ink.water : ink.panel,
  color: on ? '#fff' : ink.ink,
  border: `1px solid ${on ? ink.water : ink.line}`,
});

/** So many stations show their names side by side. */
const ALL_NAMED = 3;

/** Saved cameras, numbered as on a survey plan, in one row that is pushed along when there are many; and the section. */
export function Stations({ scene }: { scene: PlateScene | null }) {
  const items = useSite((s) => s.items);
  const commit = useSite((s) => s.commit);
  const select = useSite((s) => s.select);
  const selected = useSite((s) => s.selected);
  const { station, section, sheetOpen, set } = useBenchParts('station', 'section', 'sheetOpen', 'set');
  const assets = useAssets();
  const row = useRef<HTMLDivElement>(null);
  const list = inOrder(items);
  const first = list[0]?.key;
  // In a long row all but the chosen one are their numbers.
  const named = list.length <= ALL_NAMED;
  // One that was deleted, or never was, gives way to the first.
  const there = Boolean(station && items[station]);
  useEffect(() => {
    if (!there && first && scene) {
      scene.eye.lookFrom(useSite.getState().items[first].plan as PlanOf<'station'>);
      set({ station: first });
    }
  }, [there, first, scene, set, assets]);
  useEffect(() => {
    row.current?.querySelector('[aria-pressed=true]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [station, list.length]);
  const save = () => {
    if (!scene) return;
    const key = newKey('station');
    const { position, target } = scene.eye.aim();
    commit('new station', [{ key, plan: freshStation(items, position, target, scene.eye.lensNow) }]);
    set({ station: key });
  };
  return (
    <Box sx={{ position: 'absolute', top: 10, left: 10, display: 'flex', gap: 0.5, maxWidth: 'calc(100% - 330px)' }}>
      <Tooltip title={sheetOpen ? 'Fold the sheet away for a larger picture' : 'Show the sheet'}>
        <ButtonBase
          aria-label="Fold the sheet"
          onClick={() => set({ sheetOpen: !sheetOpen })}
          sx={{ ...chip(false), px: 0.75 }}
        >
          {sheetOpen ? '‹' : '›'}
        </ButtonBase>
      </Tooltip>
      <Box
        ref={row}
        role="group"
        aria-label="Stations"
        sx={{ display: 'flex', gap: 0.5, minWidth: 0, overflowX: 'auto', scrollbarWidth: 'none' }}
      >
        {list.map((s, k) => (
          <ButtonBase
            key={s.key}
            aria-pressed={station === s.key}
            aria-label={`${k + 1} · ${s.plan.name}`}
            title={s.plan.name}
            onClick={() => {
              scene?.eye.lookFrom(s.plan);
              set({ station: s.key });
              // With the settings of one open, those of another show when it is chosen.
              if (selected && items[selected]?.plan.kind === 'station') select(s.key);
            }}
            sx={chip(station === s.key)}
          >
            {named || station === s.key ? `${k + 1} · ${s.plan.name}` : k + 1}
          </ButtonBase>
        ))}
      </Box>
      <Tooltip title="Settings of this station: name, lens, aim, place in the row">
        <ButtonBase
          aria-label="Settings of this station"
          aria-pressed={Boolean(station) && selected === station}
          disabled={!there}
          onClick={() => {
            select(station);
            set({ sheetOpen: true });
          }}
          sx={chip(Boolean(station) && selected === station)}
        >
          ⋯
        </ButtonBase>
      </Tooltip>
      <Tooltip title="Save the present view as a station">
        <ButtonBase aria-label="Save station" onClick={save} sx={chip(false)}>
          +
        </ButtonBase>
      </Tooltip>
      <Tooltip title={section ? 'Fold the section away' : 'A cut through the site, under the plate'}>
        <ButtonBase
          aria-label="Section"
          aria-pressed={section !== null}
          onClick={() => set({ section: section ? null : cutBefore(scene) })}
          sx={chip(section !== null)}
        >
          section
        </ButtonBase>
      </Tooltip>
    </Box>
  );
}

/** A cut across the view, through what is looked at. */
function cutBefore(scene: PlateScene | null): { start: [number, number]; end: [number, number]; width: number } {
  if (!scene) return { start: [-10, 0], end: [10, 0], width: 2 };
  const to = scene.eye.controls.target,
    away = to.clone().sub(scene.eye.camera.position).setY(0).normalize();
  const { width, depth } = useSite.getState().items.ground?.plan as PlanOf<'ground'>;
  const round = (v: number) => Number(v.toFixed(2));
  // As long as the ground allows, up to 40 m each way.
  const end = (sign: number): [number, number] => {
    const dx = sign * away.z,
      dz = -sign * away.x;
    const room = (at: number, d: number, half: number) =>
      Math.abs(d) < 1e-6 ? Infinity : ((d > 0 ? half : -half) - at) / d;
    const reach = Math.max(1, Math.min(40, room(to.x, dx, width / 2), room(to.z, dz, depth / 2)));
    return [round(to.x + dx * reach), round(to.z + dz * reach)];
  };
  return { start: end(1), end: end(-1), width: 2 };
}

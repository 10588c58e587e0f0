import { Box, Button, Checkbox, Menu, MenuItem, Typography } from '@mui/material';
import { useMemo } from 'react';
import { useManifest } from '../state/derived';
import { useSite } from '../state/site';
import { memoControl } from './memoControl';
import { MaterialPicture } from './MaterialPicture';
import { useDropMenu } from './dropMenu';

export interface SurfaceEntry {
  ref: string;
  label: string;
  material: string;
  owner: string;
}

/** Every surface of the site. */
export function useSurfaces(): SurfaceEntry[] {
  const manifest = useManifest().data;
  return useMemo(
    () =>
      (manifest?.owners ?? []).flatMap((o) =>
        o.surfaces.map((s) => ({ ref: s.ref, label: s.label, material: s.material, owner: o.owner })),
      ),
    [manifest],
  );
}

/** What drifts are made of, which patinas lie on as well. */
export function useGrown(): SurfaceEntry[] {
  const manifest = useManifest().data;
  const items = useSite((s) => s.items);
  return useMemo(
    () =>
      (manifest?.drifts ?? []).flatMap((drift) =>
        drift.surfaces.map(({ ref, slot, material }) => ({
          ref,
          material,
          label: `${items[drift.key]?.plan.name ?? drift.key}, ${slot}`,
          owner: drift.key,
        })),
      ),
    [manifest, items],
  );
}

/** Everything a patina may lie on: what stands, then what is scattered. */
export function useCarriers(): SurfaceEntry[] {
  return [...useSurfaces(), ...useGrown()];
}

/** A menu of surfaces to tick. */
export const SurfaceMenu = memoControl(function SurfaceMenu({
  chosen,
  onChange,
  word,
  grown = false,
}: {
  chosen: string[];
  onChange: (refs: string[]) => void;
  word: string;
  /** What drifts are made of as well. */
  grown?: boolean;
}) {
  const { open, menu } = useDropMenu();
  const [standing, all] = [useSurfaces(), useCarriers()];
  const surfaces = grown ? all : standing;
  const toggle = (ref: string) => onChange(chosen.includes(ref) ? chosen.filter((r) => r !== ref) : [...chosen, ref]);
  return (
    <>
      <Button onClick={open}>{word}</Button>
      <Menu {...menu} slotProps={{ paper: { sx: { maxHeight: 420, width: 300 } } }}>
        {surfaces.map((s) => (
          <MenuItem
            key={s.ref}
            onClick={() => toggle(s.ref)}
            dense
            role="menuitemcheckbox"
            aria-checked={chosen.includes(s.ref)}
          >
            <Checkbox size="small" checked={chosen.includes(s.ref)} tabIndex={-1} sx={{ p: 0, mr: 1 }} />
            <MaterialPicture id={s.material} style={{ width: 18, height: 18, marginRight: 8 }} />
            {s.label}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
});

/** The chosen surfaces, each with a way to take it out. */
export const SurfaceList = memoControl(function SurfaceList({
  refs,
  onRemove,
}: {
  refs: string[];
  onRemove: (ref: string) => void;
}) {
  const surfaces = useCarriers();
  const items = useSite((s) => s.items);
  return (
    <Box>
      {refs.map((ref) => {
        const found = surfaces.find((s) => s.ref === ref);
        const owner = items[ref.split('/')[0]]?.plan.name;
        return (
          <Box key={ref} sx={{ display: 'flex', alignItems: 'center', gap: 0.75 }}>
            {found ? (
              <MaterialPicture id={found.material} style={{ width: 16, height: 16 }} />
            ) : (
              <Box sx={{ width: 16 }} />
            )}
            <Typography sx={{ flex: 1, fontSize: 12, color: found ? 'inherit' : 'warning.main' }}>
              {found?.label ?? `${owner ?? ref} (not on the site any more)`}
            </Typography>
            <Button
              color="inherit"
              aria-label={`Take out ${found?.label ?? ref}`}
              onClick={() => onRemove(ref)}
              sx={{ px: 0.5, lineHeight: 1 }}
            >
              ×
            </Button>
          </Box>
        );
      })}
    </Box>
  );
});

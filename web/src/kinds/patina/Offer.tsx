import { Box, Button, Typography } from '@mui/material';
import { useState } from 'react';
import { freeName, top } from '../../state/fresh';
import { MaterialPicture } from '../../ui/MaterialPicture';
import { Section } from '../../ui/Section';
import { SurfaceList, SurfaceMenu } from '../../ui/Surfaces';
import { newKey, useSite } from '../../state/site';
import { serif } from '../../theme';
import { begun } from './begun';
import { useWeatherings } from './Dials';
import { TableButton } from './Table';

const picture = { width: 34, height: 34, objectFit: 'cover' as const, flexShrink: 0 };

/** With no patina selected: kinds of weathering to start from, on surfaces that are chosen first. */
export function Offer() {
  const [surfaces, setSurfaces] = useState<string[]>([]);
  const [busy, setBusy] = useState('');
  const kinds = useWeatherings();
  const take = async (recipe: string, title: string) => {
    setBusy(recipe);
    const data = await begun(recipe, surfaces);
    setBusy('');
    if (!data) return;
    const { commit, select } = useSite.getState();
    const now = useSite.getState().items;
    const key = newKey('patina');
    commit(`add ${title.toLowerCase()}`, [
      { key, plan: { ...data, name: freeName(now, data.name), order: top(now, 'patina') } },
    ]);
    select(key);
  };
  return (
    <>
      <Typography sx={{ fontFamily: serif, fontStyle: 'italic', fontSize: 15, color: 'text.secondary', mb: 1 }}>
        A patina is one weathering, shared by any number of surfaces. Choose one at the left, add an empty one, or start
        with a kind.
      </Typography>
      <TableButton />
      <Section
        title="Kinds of weathering"
        remark={surfaces.length ? 'each an ordinary patina' : 'choose surfaces first'}
      >
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>to lie on</Typography>
        <SurfaceList refs={surfaces} onRemove={(ref) => setSurfaces(surfaces.filter((s) => s !== ref))} />
        <SurfaceMenu grown word="+ surface" chosen={surfaces} onChange={setSurfaces} />
        {kinds?.map((kind) => (
          <Box key={kind.key} sx={{ display: 'flex', alignItems: 'center', gap: 1, py: 0.5 }}>
            <MaterialPicture id={kind.material} tint={kind.tint} style={picture} />
            <Box sx={{ flex: 1 }}>
              <Typography sx={{ fontFamily: serif, fontSize: 14.5 }}>{kind.title}</Typography>
              <Typography sx={{ fontSize: 11.5, color: 'text.secondary' }}>{kind.about}</Typography>
            </Box>
            <Button
              variant="outlined"
              disabled={Boolean(busy) || surfaces.length === 0}
              onClick={() => void take(kind.key, kind.title)}
              aria-label={`Add ${kind.title}`}
            >
              {busy === kind.key ? 'adding…' : 'Add'}
            </Button>
          </Box>
        ))}
      </Section>
    </>
  );
}

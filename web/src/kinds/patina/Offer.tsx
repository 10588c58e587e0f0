import { Box, Button, Typography } from '@mui/material';
import { useState } from 'react';
import { api, sentence, type PlanOf } from '../../api/client';
import { freeName, top } from '../../bench/fresh';
import { MaterialPicture } from '../../bench/MaterialPicture';
import { Section } from '../../bench/controls/Section';
import { SurfaceList, SurfaceMenu } from '../../bench/controls/Surfaces';
import { newKey, useSite } from '../../state/site';
import { serif } from '../../theme';
import { useWeatherings } from './Dials';

const SEEDS = 1000;
const picture = { width: 34, height: 34, objectFit: 'cover' as const, flexShrink: 0 };

/** With no patina selected: kinds of weathering to start from, on surfaces that are chosen first. */
export function Offer() {
  const [surfaces, setSurfaces] = useState<string[]>([]);
  const [busy, setBusy] = useState('');
  const kinds = useWeatherings();
  const take = async (recipe: string, title: string) => {
    const { id, items, commit, select, say } = useSite.getState();
    setBusy(recipe);
    const seed = (Object.keys(items).length * 13) % SEEDS;
    const { data, error } = await api
      .POST('/api/sites/{site_id}/weathering', { params: { path: { site_id: id } }, body: { recipe, surfaces, seed } })
      .catch((failed: unknown) => ({ data: undefined, error: failed }));
    setBusy('');
    if (!data) return say(sentence(error));
    const now = useSite.getState().items;
    const key = newKey('patina');
    commit(`add ${title.toLowerCase()}`, [
      { key, plan: { ...data, name: freeName(now, data.name), order: top(now, 'patina') } as PlanOf<'patina'> },
    ]);
    select(key);
  };
  return (
    <>
      <Typography sx={{ fontFamily: serif, fontStyle: 'italic', fontSize: 15, color: 'text.secondary', mb: 1 }}>
        A patina is one weathering, shared by any number of surfaces. Choose one at the left, add an empty one, or start
        with a kind.
      </Typography>
      <Section
        title="Kinds of weathering"
        remark={surfaces.length ? 'each an ordinary patina' : 'choose surfaces first'}
      >
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>to lie on</Typography>
        <SurfaceList refs={surfaces} onRemove={(ref) => setSurfaces(surfaces.filter((s) => s !== ref))} />
        <SurfaceMenu word="+ surface" chosen={surfaces} onChange={setSurfaces} />
        {kinds?.map((kind) => (
          <Box key={kind.key} sx={{ display: 'flex', alignItems: 'center', gap: 1, py: 0.5 }}>
            <MaterialPicture id={kind.material} style={picture} />
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

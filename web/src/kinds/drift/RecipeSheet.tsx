import { Box, Button, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { api, given } from '../../api/client';
import { tuftsOf } from '../../api/tufts';
import { useAssets } from '../../state/derived';
import { itemsOf, useSite } from '../../state/site';
import { serif } from '../../theme';
import { Section } from '../../ui/Section';
import { SurfaceList, SurfaceMenu } from '../../ui/Surfaces';
import { AssetPicture } from '../../ui/AssetPicture';
import { addRecipe } from './handWork';
import { growsIn, openGrass, shapeGrass } from '../grass/ownGrass';
import type { Offered } from '../kind';
import { SnagSheet } from './SnagSheet';

/** With no drift selected: recipes to start from, and the snags of all drifts. */
export function RecipeSheet({ openItem }: Offered) {
  const [surfaces, setSurfaces] = useState(['ground/ground']);
  const [busy, setBusy] = useState('');
  const say = useSite((s) => s.say);
  const recipes = useQuery({
    queryKey: ['recipes'],
    staleTime: Infinity,
    queryFn: async () => given(await api.GET('/api/sites/recipes')),
  });
  const take = async (key: string, title: string) => {
    setBusy(key);
    const trouble = await addRecipe(key, surfaces);
    say(trouble || `${title} was added: each of its drifts can be edited by itself.`);
    setBusy('');
  };
  return (
    <>
      <Typography sx={{ fontFamily: serif, fontStyle: 'italic', fontSize: 15, color: 'text.secondary', mb: 1 }}>
        A drift is one population of plants, stones or litter. Choose one at the left, add an empty one, or start with a
        recipe.
      </Typography>
      <Section title="Recipes" remark="several drifts at once">
        <Typography sx={{ fontSize: 12, color: 'text.secondary' }}>to grow on</Typography>
        <SurfaceList refs={surfaces} onRemove={(ref) => setSurfaces(surfaces.filter((s) => s !== ref))} />
        <SurfaceMenu word="+ surface" chosen={surfaces} onChange={setSurfaces} />
        {recipes.data?.map((recipe) => (
          <Box key={recipe.key} sx={{ display: 'flex', alignItems: 'center', gap: 1, py: 0.5 }}>
            <Box sx={{ flex: 1 }}>
              <Typography sx={{ fontFamily: serif, fontSize: 14.5 }}>{recipe.title}</Typography>
              <Typography sx={{ fontSize: 11.5, color: 'text.secondary' }}>{recipe.about}</Typography>
            </Box>
            <Button
              variant="outlined"
              disabled={Boolean(busy) || surfaces.length === 0}
              onClick={() => void take(recipe.key, recipe.title)}
              aria-label={`Add ${recipe.title}`}
            >
              {busy === recipe.key ? 'adding…' : 'Add'}
            </Button>
          </Box>
        ))}
      </Section>
      <Grasses />
      <SnagSheet openItem={openItem} />
    </>
  );
}

/** The grasses made for this site, each open to be shaped. */
function Grasses() {
  const items = useSite((s) => s.items);
  const list = itemsOf(items, 'grass');
  const assets = useAssets();
  return (
    <Section title="Grasses of your own" remark={list.length || 'none yet'}>
      {list.map((grass) => {
        const tuft = assets.find((a) => a.id === tuftsOf(grass.key)[0]);
        const drifts = growsIn(items, grass.key).length;
        return (
          <Box key={grass.key} sx={{ display: 'flex', alignItems: 'center', gap: 0.75 }}>
            {tuft && <AssetPicture asset={tuft} size={20} />}
            <Button onClick={() => openGrass(grass.key)} sx={{ flex: 1, justifyContent: 'flex-start' }}>
              {grass.plan.name}
            </Button>
            <Typography sx={{ fontSize: 11, color: 'text.secondary' }}>
              {drifts === 1 ? 'in 1 drift' : `in ${drifts} drifts`}
            </Typography>
          </Box>
        );
      })}
      <Button onClick={() => void shapeGrass()}>+ grass</Button>
    </Section>
  );
}

import { Box, InputBase, Tooltip, Typography } from '@mui/material';
import { useBench } from '../state/bench';
import { useSite } from '../state/site';
import { mono, serif } from '../theme';
import type { ItemPlan } from '../api/client';
import { DecalSheet } from './sheets/DecalSheet';
import { DriftSheet } from './sheets/DriftSheet';
import { GrassSheet } from './sheets/GrassSheet';
import { GroundSheet } from './sheets/GroundSheet';
import { KitSheet } from './sheets/KitSheet';
import { LightSheet } from './sheets/LightSheet';
import { PatinaSheet } from './sheets/PatinaSheet';
import { PieceSheet } from './sheets/PieceSheet';
import { ProofSheet } from './sheets/ProofSheet';
import { RecipeSheet } from './sheets/RecipeSheet';

/** The settings of the one selected item; with none selected, what the open step of the course offers. */
export function Sheet() {
  const selected = useSite((s) => s.selected);
  const plan = useSite((s) => (s.selected ? (s.drafts[s.selected] ?? s.items[s.selected]?.plan) : undefined));
  const step = useBench((s) => s.step);
  return (
    <Box sx={{ p: 1.75, pb: 6 }}>
      {step === 'Proofs' ? (
        <ProofSheet />
      ) : selected && plan ? (
        <>
          <Title itemKey={selected} plan={plan} />
          {plan.kind === 'drift' && <DriftSheet key={selected} itemKey={selected} />}
          {plan.kind === 'grass' && <GrassSheet key={selected} itemKey={selected} />}
          {plan.kind === 'patina' && <PatinaSheet key={selected} itemKey={selected} />}
          {plan.kind === 'decal' && <DecalSheet key={selected} itemKey={selected} />}
          {plan.kind === 'piece' && <PieceSheet key={selected} itemKey={selected} />}
          {plan.kind === 'ground' && <GroundSheet itemKey={selected} />}
          {plan.kind === 'light' && <LightSheet itemKey={selected} />}
        </>
      ) : step === 'Pieces' || step === 'Decals' ? (
        <KitSheet of={step} />
      ) : step === 'Drifts' ? (
        <RecipeSheet />
      ) : (
        <Typography color="text.secondary" sx={{ fontStyle: 'italic', fontFamily: serif, fontSize: 15 }}>
          Choose a patina at the left, or add one: a patina is one weathering, shared by any number of surfaces.
        </Typography>
      )}
    </Box>
  );
}

function Title({ itemKey, plan }: { itemKey: string; plan: ItemPlan }) {
  const commit = useSite((s) => s.commit);
  const rename = (name: string) => {
    const clean = name.trim().slice(0, 80);
    if (clean && clean !== plan.name) commit(`rename ${plan.name}`, [{ key: itemKey, plan: { ...plan, name: clean } }]);
  };
  const note = (text: string) => {
    if (text !== plan.note)
      commit(`note on ${plan.name}`, [{ key: itemKey, plan: { ...plan, note: text.slice(0, 2000) } }]);
  };
  return (
    <Box sx={{ mb: 1 }}>
      <Box sx={{ display: 'flex', alignItems: 'baseline' }}>
        <Tooltip title="Click to rename">
          <InputBase
            key={`${itemKey} ${plan.name}`}
            defaultValue={plan.name}
            onBlur={(e) => rename(e.target.value)}
            onKeyDown={(e) => e.key === 'Enter' && (e.target as HTMLInputElement).blur()}
            inputProps={{ 'aria-label': 'Name', style: { fontFamily: serif, fontSize: 20, padding: 0 } }}
            sx={{ flex: 1 }}
          />
        </Tooltip>
        <Typography sx={{ fontFamily: mono, fontSize: 11, color: 'text.secondary' }}>
          {plan.kind === 'drift' ? `${plan.tier} tier` : plan.kind}
        </Typography>
      </Box>
      <InputBase
        key={`${itemKey} note`}
        defaultValue={plan.note}
        placeholder="note"
        onBlur={(e) => note(e.target.value)}
        fullWidth
        inputProps={{
          'aria-label': 'Note',
          style: { fontFamily: serif, fontStyle: 'italic', fontSize: 13, padding: 0 },
        }}
      />
    </Box>
  );
}

import { Box, InputBase, Tooltip, Typography } from '@mui/material';
import { useBench } from '../state/bench';
import { useSite } from '../state/site';
import { mono, serif } from '../theme';
import type { ItemPlan } from '../api/client';
import { kindOf, kinds, steps } from '../kinds';
import { addItem, openItem, openStep } from './openStep';
import { ProofSheet } from './sheets/ProofSheet';

/** The settings of the one selected item; with none selected, what the open step of the course offers. */
export function Sheet() {
  const selected = useSite((s) => s.selected);
  const plan = useSite((s) => (s.selected ? (s.drafts[s.selected] ?? s.items[s.selected]?.plan) : undefined));
  const step = useBench((s) => s.step);
  const Of = kindOf(plan)?.sheet;
  const open = steps.find((s) => s.step === step)?.kind;
  const Offer = open ? kinds[open].offer : undefined;
  return (
    <Box sx={{ p: 1.75, pb: 6 }}>
      {step === 'Proofs' ? (
        <ProofSheet />
      ) : selected && plan ? (
        <>
          <Title itemKey={selected} plan={plan} />
          {Of && <Of key={selected} itemKey={selected} />}
        </>
      ) : (
        Offer && <Offer open={openStep} openItem={openItem} add={addItem} />
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
          {kindOf(plan)?.title?.(plan) ?? plan.kind}
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

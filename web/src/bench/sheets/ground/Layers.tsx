import { Box, Button, MenuItem, Select, Typography } from '@mui/material';
import type { Manifest, PlanOf, Rule } from '../../../api/client';
import { fresh } from '../../../api/defaults';
import { Fold } from '../../controls/Fold';
import { HandList } from '../../controls/HandList';
import { numbersOf } from '../../controls/numbers';
import { Rules } from '../../controls/Rules';
import { Section } from '../../controls/Section';
import { ToolRow } from '../../controls/Tools';

type Ground = PlanOf<'ground'>;
type Layer = Ground['layers'][number];

/** Further surfaces of the ground: gravel, path, rock, each where its rules and strokes say. */
export function Layers({ itemKey, plan, materials, onDraft, onCommit }: { itemKey: string; plan: Ground; materials: [string, Manifest['materials'][string]][]; onDraft: (plan: Ground) => void; onCommit: (label: string, plan: Ground) => void }) {
  const put = (index: number, layer: Layer): Ground => ({ ...plan, layers: plan.layers.map((l, k) => (k === index ? layer : l)) });
  const add = (material: string) => {
    let key = material.replaceAll(/[^A-Za-z0-9_-]/g, '');
    while (plan.layers.some((l) => l.key === key)) key += '2';
    const layer: Layer = { key, material, amount: 1, blend: 0.6, scale: 1, rules: [{ measure: 'painted', active: true, strength: 1, gate: { rise_start: 0, rise_end: 1, fall_start: 1, fall_end: 1 } }] };
    onCommit(`surface of ${material}`, { ...plan, layers: [...plan.layers, layer] });
  };
  return (
    <Section title="Surfaces over it" remark={plan.layers.length ? 'later ones lie on top' : 'none yet'}>
      {plan.layers.map((layer, k) => {
        const number = numbersOf('GroundLayer', layer, layer.key, (next) => onDraft(put(k, next)), (label, next) => onCommit(label, put(k, next)));
        // Histograms are asked as for a patina on the ground.
        const asked = fresh('patina', { name: layer.key, rules: layer.rules as Rule[], uses: [{ surface: 'ground/ground', amount: 1 }] });
        return (
          <Fold key={layer.key} title={layer.key} remark={materials.find(([id]) => id === layer.material)?.[1].title ?? layer.material} open>
            <ToolRow
              paintOn={`ground.${layer.key}`}
              tools={[
                { tool: 'more', label: 'Paint', help: `Paint ${layer.key} onto the ground` },
                { tool: 'less', label: 'Thin', help: `Thin ${layer.key} by hand` },
                { tool: 'erase', label: 'Erase', help: `Leave no ${layer.key} under the brush` },
              ]}
            />
            <Select variant="standard" fullWidth value={layer.material} onChange={(e) => onCommit(`material of ${layer.key}`, put(k, { ...layer, material: e.target.value }))} inputProps={{ 'aria-label': `Material of ${layer.key}` }} sx={{ fontSize: 12.5 }}>
              {materials.map(([id, m]) => <MenuItem key={id} value={id}>{m.title}</MenuItem>)}
            </Select>
            {number('amount', 'amount', { min: 0, max: 1 })}
            {number('blend', 'edge by relief', { min: 0, max: 1 })}
            {number('scale', 'pattern size', { min: 0.2, max: 4, curve: 1.5 })}
            <Rules itemKey={itemKey} plan={{ ...plan, name: layer.key }} rules={(layer.rules ?? []) as Rule[]} asked={asked} title="Where it lies" verb="lies" remark={`${layer.rules?.length ?? 0} rules`} onDraft={(rules) => onDraft(put(k, { ...layer, rules }))} onCommit={(label, rules) => onCommit(label, put(k, { ...layer, rules }))} />
            <HandList target={`ground.${layer.key}`} />
            <Button color="error" onClick={() => onCommit(`remove ${layer.key}`, { ...plan, layers: plan.layers.filter((_, n) => n !== k) })}>Remove this surface</Button>
          </Fold>
        );
      })}
      <Box>
        {plan.layers.length < 4 ? (
          <Select variant="standard" displayEmpty value="" onChange={(e) => add(e.target.value)} inputProps={{ 'aria-label': 'Add a surface' }} sx={{ fontSize: 12.5 }}>
            <MenuItem value="" disabled>+ surface of…</MenuItem>
            {materials.filter(([, m]) => m.kind !== 'imported').map(([id, m]) => <MenuItem key={id} value={id}>{m.title}</MenuItem>)}
          </Select>
        ) : <Typography sx={{ fontSize: 11.5, color: 'text.secondary' }}>Four surfaces are the most.</Typography>}
      </Box>
    </Section>
  );
}

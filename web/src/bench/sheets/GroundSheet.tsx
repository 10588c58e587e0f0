import { Box, Button, MenuItem, Select, Typography } from '@mui/material';
import { setting } from '../../api/settings';
import { useManifest } from '../../state/derived';
import { figure, mono } from '../../theme';
import { Field } from '../controls/Field';
import { Section } from '../controls/Section';
import { useItem } from '../controls/useItem';
import type { PlanOf } from '../../api/client';

type Form = PlanOf<'ground'>['forms'][number];
const models = { terrace: 'Terrace', cut: 'Cut', mound: 'Mound' };
const fresh: Record<Form['form'], Form> = {
  terrace: { form: 'terrace', start: [-20, -4], end: [20, -4], height: 2, run: 4 },
  cut: { form: 'cut', line: [[-20, 2], [20, 2]], width: 2, depth: 0.4, bank: 1 },
  mound: { form: 'mound', centre: [0, 0], radius: 6, height: 1 },
};

export function GroundSheet({ itemKey }: { itemKey: string }) {
  const { plan, change, keep } = useItem(itemKey, 'ground');
  const manifest = useManifest().data;
  if (!plan) return null;
  type Numbers = 'width' | 'depth' | 'cell' | 'amount' | 'feature' | 'detail' | 'seed';
  const number = (field: Numbers, label: string, slider?: { min: number; max: number; curve?: number }) => (
    <Field model="GroundPlan" field={field} label={label} value={plan[field]} slider={slider} onDraft={(v) => change({ ...plan, [field]: v })} onCommit={(v) => keep(`${label} of the ground`, { ...plan, [field]: v })} />
  );
  const formed = (index: number, form: Form) => ({ ...plan, forms: plan.forms.map((f, k) => (k === index ? form : f)) });
  const materials = Object.entries(manifest?.materials ?? {}).filter(([, m]) => m.kind === 'surface' || m.kind === 'finish');
  const points = (Math.round(plan.width / plan.cell) + 1) * (Math.round(plan.depth / plan.cell) + 1);
  return (
    <>
      <Section title="Sheet" remark={`${figure(points)} points`}>
        {number('width', 'west to east')}
        {number('depth', 'north to south')}
        {number('cell', 'distance of points')}
      </Section>
      <Section title="Unevenness">
        {number('amount', 'amount', { min: 0, max: 6, curve: 1.6 })}
        {number('feature', 'width of humps', { min: 1, max: 60, curve: 1.6 })}
        {number('detail', 'finer layers', { min: 1, max: 9 })}
        {number('seed', 'seed')}
      </Section>
      <Section title="Forms" remark="laid over in this order">
        {plan.forms.map((form, k) => (
          <Box key={k} sx={{ mb: 1 }}>
            <Box sx={{ display: 'flex', alignItems: 'center' }}>
              <Typography sx={{ flex: 1, fontWeight: 500 }}>{k + 1}. {form.form}</Typography>
              <Button color="inherit" aria-label={`Remove form ${k + 1}`} sx={{ px: 0.5, lineHeight: 1 }} onClick={() => keep(`remove ${form.form}`, { ...plan, forms: plan.forms.filter((_, n) => n !== k) })}>×</Button>
            </Box>
            {Object.entries(form).filter((entry): entry is [string, number] => typeof entry[1] === 'number').map(([name, value]) => (
              <Field
                key={name} model={models[form.form]} field={name} label={name} value={value} slider={range(models[form.form], name)}
                onDraft={(v) => change(formed(k, { ...form, [name]: v } as Form))} onCommit={(v) => keep(`${name} of the ${form.form}`, formed(k, { ...form, [name]: v } as Form))}
              />
            ))}
            <Typography sx={{ fontFamily: mono, fontSize: 10.5, color: 'text.secondary' }}>
              {form.form === 'mound' ? `at ${form.centre.join(', ')}` : form.form === 'terrace' ? `${form.start.join(', ')} → ${form.end.join(', ')}` : `${form.line.length} points`}
            </Typography>
          </Box>
        ))}
        {(Object.keys(fresh) as Form['form'][]).map((name) => <Button key={name} onClick={() => keep(`add ${name}`, { ...plan, forms: [...plan.forms, fresh[name]] })}>+ {name}</Button>)}
      </Section>
      <Section title="Material">
        <Select variant="standard" fullWidth value={plan.material} onChange={(e) => keep('material of the ground', { ...plan, material: e.target.value })} inputProps={{ 'aria-label': 'Material of the ground' }} sx={{ fontSize: 13 }}>
          {materials.map(([id, m]) => <MenuItem key={id} value={id}>{m.title}</MenuItem>)}
        </Select>
      </Section>
    </>
  );
}

/** A useful stretch of a setting's range for dragging. */
function range(model: string, field: string) {
  const { min, max } = setting(model, field);
  return { min: Math.max(min, -8), max: Math.min(max, 20), curve: min < 0 ? 1 : 1.6 };
}

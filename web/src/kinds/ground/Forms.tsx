import { Box, Button, MenuItem, Select, Typography } from '@mui/material';
import type { PlanOf } from '../../api/client';
import { defaults } from '../../api/defaults';
import { setting } from '../../api/settings';
import { atRest, useBench } from '../../state/bench';
import { usePlateScene } from '../../state/plate';
import { itemsOf, useSite } from '../../state/site';
import { mono } from '../../theme';
import { Field } from '../../ui/Field';
import { Section } from '../../ui/Section';
import { freshLayer, starts } from './layerStarts';

type Ground = PlanOf<'ground'>;
export type Form = Ground['forms'][number];

const models: Record<Form['form'], string> = {
  terrace: 'Terrace',
  cut: 'Cut',
  mound: 'Mound',
  basin: 'Basin',
  pad: 'Pad',
  water: 'Water',
};
const titles: Record<Form['form'], string> = {
  terrace: 'terrace',
  cut: 'path or ditch',
  mound: 'mound',
  basin: 'basin',
  pad: 'level pad',
  water: 'still water',
};

/** A line drawn first is more often a footpath than a road: this is what it starts with, metres. */
const footpath = { width: 1.6, depth: 0.15, bank: 0.6 };

/** What says what water there is in a path or ditch: shown where there is any. */
const LIQUID = new Set(['water', 'flow', 'murk', 'patterns', 'foam']);
/** Metres of water in a ditch to begin with. */
const RUNNING = 0.12;

const round = (v: number) => Number(v.toFixed(2));

/** Forms laid over the ground in their order, each with its numbers; places are set in the plate. */
export function Forms({
  plan,
  onDraft,
  onCommit,
}: {
  plan: Ground;
  onDraft: (plan: Ground) => void;
  onCommit: (label: string, plan: Ground) => void;
}) {
  const scene = usePlateScene((s) => s.scene);
  const items = useSite((s) => s.items);
  const set = useBench((s) => s.set);
  const pieces = itemsOf(items, 'piece');
  const put = (index: number, form: Form): Ground => ({
    ...plan,
    forms: plan.forms.map((f, k) => (k === index ? form : f)),
  });
  const shift = (index: number, by: number) => {
    const forms = [...plan.forms];
    const [one] = forms.splice(index, 1);
    forms.splice(index + by, 0, one);
    onCommit(`order of the ${one.form}`, { ...plan, forms });
  };
  /** A new form where the view looks, or along a line drawn in the plate. */
  const add = (name: Form['form']) => {
    const target = scene?.eye.controls.target;
    const here: [number, number] = target ? [round(target.x), round(target.z)] : [0, 0];
    const base = { ...defaults(models[name]), form: name } as Form;
    const commit = (form: Form) => onCommit(`add ${titles[name]}`, { ...plan, forms: [...plan.forms, form] });
    const draw = (what: string, done: (line: [number, number][]) => void) =>
      set({
        ...atRest,
        tool: 'draw',
        drawing: {
          what,
          points: [],
          done: (points) => {
            done(points.map(([x, , z]) => [round(x), round(z)]));
            set(atRest);
          },
        },
      });
    if (base.form === 'cut')
      draw('the middle of the path or ditch', (line) => commit({ ...base, ...footpath, line } as Form));
    else if (base.form === 'terrace')
      draw('the foot of the terrace, its left side is raised', (line) =>
        commit({ ...base, start: line[0], end: line[line.length - 1] } as Form),
      );
    else if (base.form === 'pad') commit({ ...base, piece: pieces[0].key } as Form);
    else if (base.form === 'water')
      commit({
        ...base,
        centre: here,
        level: round((scene?.picker.groundHeight(here[0], here[1]) ?? 0) + 0.2),
      } as Form);
    else commit({ ...base, centre: here } as Form);
  };
  return (
    <Section title="Forms" remark={plan.forms.length ? 'laid over in this order' : 'none yet'}>
      {plan.forms.map((form, k) => (
        <Box key={k} sx={{ mb: 1 }}>
          <Box sx={{ display: 'flex', alignItems: 'center' }}>
            <Typography sx={{ flex: 1, fontWeight: 500 }}>
              {k + 1}. {titles[form.form]}
            </Typography>
            <Button
              color="inherit"
              aria-label={`Form ${k + 1} earlier`}
              disabled={k === 0}
              sx={{ px: 0.5, fontSize: 10 }}
              onClick={() => shift(k, -1)}
            >
              ▲
            </Button>
            <Button
              color="inherit"
              aria-label={`Form ${k + 1} later`}
              disabled={k === plan.forms.length - 1}
              sx={{ px: 0.5, fontSize: 10 }}
              onClick={() => shift(k, 1)}
            >
              ▼
            </Button>
            <Button
              color="inherit"
              aria-label={`Remove form ${k + 1}`}
              sx={{ px: 0.5, lineHeight: 1 }}
              onClick={() =>
                onCommit(`remove ${titles[form.form]}`, { ...plan, forms: plan.forms.filter((_, n) => n !== k) })
              }
            >
              ×
            </Button>
          </Box>
          {form.form === 'pad' && (
            <Select
              variant="standard"
              value={pieces.some((p) => p.key === form.piece) ? form.piece : ''}
              displayEmpty
              onChange={(e) => onCommit('piece of the pad', put(k, { ...form, piece: e.target.value }))}
              inputProps={{ 'aria-label': 'Piece on the pad' }}
              sx={{ fontSize: 12 }}
            >
              <MenuItem value="" disabled>
                under which piece?
              </MenuItem>
              {pieces.map((p) => (
                <MenuItem key={p.key} value={p.key}>
                  under {p.plan.name}
                </MenuItem>
              ))}
            </Select>
          )}
          {Object.entries(form)
            .filter((entry): entry is [string, number] => typeof entry[1] === 'number')
            .filter(([name]) => form.form !== 'cut' || form.water > 0 || !LIQUID.has(name))
            // Its shape first, then what its water is like.
            .sort(([a], [b]) => Number(LIQUID.has(a)) - Number(LIQUID.has(b)))
            .map(([name, value]) => (
              <Field
                key={name}
                model={models[form.form]}
                field={name}
                label={setting(models[form.form], name).label ?? name.replaceAll('_', ' ')}
                value={value}
                slider={setting(models[form.form], name).slider ? undefined : range(models[form.form], name)}
                onDraft={(v) => onDraft(put(k, { ...form, [name]: v } as Form))}
                onCommit={(v) =>
                  onCommit(`${name} of the ${titles[form.form]}`, put(k, { ...form, [name]: v } as Form))
                }
              />
            ))}
          {form.form === 'cut' && (
            <label style={{ fontSize: 12.5, display: 'block' }}>
              <input
                type="checkbox"
                checked={form.level !== null}
                onChange={(e) =>
                  onCommit('floor of the path or ditch', put(k, { ...form, level: e.target.checked ? 0 : null }))
                }
              />{' '}
              floor at one height throughout
            </label>
          )}
          {form.form === 'cut' && form.water <= 0 && (
            <Button onClick={() => onCommit('water in the ditch', put(k, { ...form, water: RUNNING }))}>
              Let water run in it
            </Button>
          )}
          {form.form === 'cut' && form.water > 0 && (
            <Typography sx={{ fontSize: 11.5, color: 'text.secondary' }}>
              It runs from the first point to the last, and cuts through what rises in its way.
            </Typography>
          )}
          {form.form === 'cut' && !plan.layers.some((l) => l.rules?.some((r) => r.measure === 'path')) && (
            <Button
              onClick={() =>
                onCommit('gravel on the paths', {
                  ...plan,
                  layers: [...plan.layers, freshLayer(plan, 'gravel', starts[1])],
                })
              }
              disabled={plan.layers.length >= 4}
            >
              Lay gravel on it
            </Button>
          )}
          <Typography sx={{ fontFamily: mono, fontSize: 10.5, color: 'text.secondary' }}>
            {placeOf(form)}
            {form.form === 'pad' ? '' : ' · drag its marks in the plate'}
          </Typography>
        </Box>
      ))}
      {(Object.keys(titles) as Form['form'][]).map((name) => (
        <Button key={name} disabled={name === 'pad' && pieces.length === 0} onClick={() => add(name)}>
          + {titles[name]}
        </Button>
      ))}
    </Section>
  );
}

function placeOf(form: Form): string {
  if (form.form === 'terrace') return `${form.start.join(', ')} → ${form.end.join(', ')}`;
  if (form.form === 'cut') return `${form.line.length} points`;
  if (form.form === 'pad') return '';
  return `at ${form.centre.join(', ')}`;
}

/** A useful stretch of a setting's range for dragging. */
function range(model: string, field: string) {
  const { min, max } = setting(model, field);
  return { min: Math.max(min, field === 'level' ? -5 : -8), max: Math.min(max, 20), curve: min < 0 ? 1 : 1.6 };
}

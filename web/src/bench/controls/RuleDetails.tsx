import { Box, Button, MenuItem, Select, Typography } from '@mui/material';
import { useQuery } from '@tanstack/react-query';
import { api, type Kind, type Rule } from '../../api/client';
import { atRest, useBench } from '../../state/bench';
import { itemsOf, useSite } from '../../state/site';
import { Chooser } from './Chooser';
import { Field } from './Field';
import { measures } from './gate';

interface Props {
  rule: Rule;
  onDraft: (rule: Rule) => void;
  onCommit: (rule: Rule) => void;
}

/** The numbers of each measure beside its gate: field, words, and a useful stretch for dragging. */
const numbers: Partial<Record<Rule['measure'], [string, string, { min: number; max: number; curve?: number } | undefined][]>> = {
  shelter: [['reach', 'reach', { min: 0.05, max: 10, curve: 2 }]],
  hollow: [['reach', 'surroundings', { min: 0.2, max: 15, curve: 2 }]],
  noise: [['size', 'patch width', { min: 0.02, max: 20, curve: 2 }], ['detail', 'finer layers', { min: 1, max: 8 }], ['seed', 'seed', undefined]],
  aspect: [['toward', 'facing', { min: 0, max: 360 }]],
};

const summary: Partial<Record<Rule['measure'], string>> = {
  noise: ', patches', shelter: ', reach', height: ', measured from', hollow: ', surroundings', aspect: ', direction', near: ', which pieces', line: ', the line',
  stems: ', which drifts', crown: ', which drifts', camera: ', which stations', image: ', which image',
};

/** What belongs to one measure alone, and the strength. */
export function RuleDetails({ rule, onDraft, onCommit }: Props) {
  const model = measures[rule.measure].model;
  const values = rule as unknown as Record<string, number>;
  const field = (name: string, text: string, slider?: { min: number; max: number; curve?: number }) => (
    <Field key={name} model={model} field={name} label={text} value={values[name]} slider={slider} onDraft={(v) => onDraft({ ...rule, [name]: v } as Rule)} onCommit={(v) => onCommit({ ...rule, [name]: v } as Rule)} />
  );
  return (
    <Box component="details" sx={{ '& summary': { cursor: 'pointer', fontSize: 11, color: 'primary.main' } }}>
      <summary>strength {rule.strength}{summary[rule.measure] ?? ''}</summary>
      {field('strength', 'strength', { min: 0, max: 1 })}
      {(numbers[rule.measure] ?? []).map(([name, text, slider]) => field(name, text, slider))}
      {rule.measure === 'height' && (
        <Select variant="standard" value={rule.above} onChange={(e) => onCommit({ ...rule, above: e.target.value as 'site' | 'foot' })} inputProps={{ 'aria-label': 'height measured from' }} sx={{ fontSize: 12 }}>
          <MenuItem value="site">above the site’s zero</MenuItem>
          <MenuItem value="foot">above the foot of the piece</MenuItem>
        </Select>
      )}
      {rule.measure === 'near' && <Items kind="piece" none="any piece" chosen={rule.pieces ?? []} onChange={(pieces) => onCommit({ ...rule, pieces })} />}
      {(rule.measure === 'stems' || rule.measure === 'crown') && <Items kind="drift" none="all larger tiers" chosen={rule.drifts ?? []} onChange={(drifts) => onCommit({ ...rule, drifts })} />}
      {rule.measure === 'camera' && <Items kind="station" none="all stations" chosen={rule.stations ?? []} onChange={(stations) => onCommit({ ...rule, stations })} />}
      {rule.measure === 'image' && <ImageChoice value={rule.image} onChange={(image) => onCommit({ ...rule, image })} />}
      {rule.measure === 'line' && <LineChoice count={rule.line.length} onChange={(line) => onCommit({ ...rule, line })} />}
    </Box>
  );
}

function Items({ kind, none, chosen, onChange }: { kind: Kind; none: string; chosen: string[]; onChange: (keys: string[]) => void }) {
  const items = useSite((s) => s.items);
  return <Chooser options={itemsOf(items, kind).map((i) => ({ id: i.key, title: i.plan.name }))} none={none} chosen={chosen} onChange={onChange} />;
}

/** The site's images, and a way to bring in another. */
export function ImageChoice({ value, onChange }: { value: string; onChange: (id: string) => void }) {
  const { pictures } = usePictures();
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
      <Select variant="standard" displayEmpty value={pictures.some((p) => p.id === value) ? value : ''} onChange={(e) => onChange(e.target.value)} inputProps={{ 'aria-label': 'Image' }} sx={{ fontSize: 12, flex: 1 }}>
        <MenuItem value="" disabled>{pictures.length ? 'choose an image' : 'no image yet: bring one in under Ground'}</MenuItem>
        {pictures.map((p) => <MenuItem key={p.id} value={p.id}>{p.title}</MenuItem>)}
      </Select>
      {pictures.some((p) => p.id === value) && <img alt="" src={`/api/kit/pictures/${value}/small.png`} style={{ height: 28 }} />}
    </Box>
  );
}

export function usePictures() {
  const id = useSite((s) => s.id);
  const query = useQuery({
    queryKey: ['pictures', id],
    enabled: Boolean(id),
    queryFn: async () => (await api.GET('/api/kit/pictures', { params: { query: { site: id } } })).data ?? [],
  });
  return { pictures: query.data ?? [], refresh: query.refetch };
}

function LineChoice({ count, onChange }: { count: number; onChange: (line: [number, number][]) => void }) {
  const set = useBench((s) => s.set);
  const draw = () =>
    set({
      ...atRest, tool: 'draw',
      drawing: { what: 'the line of this rule', points: [], done: (points) => { onChange(points.map(([x, , z]) => [x, z])); set(atRest); } },
    });
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
      <Typography sx={{ fontSize: 12 }}>{count} points</Typography>
      <Button onClick={draw}>Draw it in the plate</Button>
    </Box>
  );
}

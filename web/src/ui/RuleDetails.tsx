import { Box, Button, MenuItem, Select, Typography } from '@mui/material';
import { type Kind, type Rule } from '../api/client';
import { atRest, useBench } from '../state/bench';
import { itemsOf, useSite } from '../state/site';
import { Chooser } from './Chooser';
import { Field } from './Field';
import { PictureChoice } from './Pictures';
import { measures, type MeasureField } from '../api/measures';

interface Props {
  rule: Rule;
  onDraft: (rule: Rule) => void;
  onCommit: (rule: Rule) => void;
}

/** What belongs to one measure alone, as its declaration says, and the strength. */
export function RuleDetails({ rule, onDraft, onCommit }: Props) {
  const about = measures[rule.measure];
  const values = rule as unknown as Record<string, unknown>;
  const put = (name: string, value: unknown) => ({ ...rule, [name]: value }) as Rule;
  const number = (name: string, label: string, slider?: MeasureField['slider']) => (
    <Field
      key={name}
      model={about.model}
      field={name}
      label={label}
      value={values[name] as number}
      slider={slider}
      onDraft={(v) => onDraft(put(name, v))}
      onCommit={(v) => onCommit(put(name, v))}
    />
  );
  return (
    <Box component="details" sx={{ '& summary': { cursor: 'pointer', fontSize: 11, color: 'primary.main' } }}>
      <summary>
        strength {rule.strength}
        {about.more && `, ${about.more}`}
      </summary>
      {number('strength', 'strength')}
      {about.fields.map((field) =>
        typeof values[field.name] === 'number' ? (
          number(field.name, field.label, field.slider)
        ) : (
          <Choice
            key={field.name}
            field={field}
            value={values[field.name]}
            onChange={(value) => onCommit(put(field.name, value))}
          />
        ),
      )}
    </Box>
  );
}

/** A setting that is chosen: one of some words, items of the site, an image, or a line. */
function Choice({
  field: { name, label, choose, none, words },
  value,
  onChange,
}: {
  field: MeasureField;
  value: unknown;
  onChange: (value: unknown) => void;
}) {
  if (words)
    return (
      <Select
        variant="standard"
        value={value as string}
        onChange={(e) => onChange(e.target.value)}
        inputProps={{ 'aria-label': label }}
        sx={{ fontSize: 12 }}
      >
        {Object.entries(words).map(([one, text]) => (
          <MenuItem key={one} value={one}>
            {text}
          </MenuItem>
        ))}
      </Select>
    );
  if (choose === 'image')
    return <PictureChoice what="Image" value={(value as string) || null} onChange={(id) => onChange(id ?? '')} />;
  if (choose === 'line') return <LineChoice count={(value as unknown[]).length} onChange={onChange} />;
  if (choose) return <Items kind={choose as Kind} none={none} chosen={(value as string[]) ?? []} onChange={onChange} />;
  throw new TypeError(`the sheet does not know how to show the setting ${name}`);
}

function Items({
  kind,
  none,
  chosen,
  onChange,
}: {
  kind: Kind;
  none: string;
  chosen: string[];
  onChange: (keys: string[]) => void;
}) {
  const items = useSite((s) => s.items);
  return (
    <Chooser
      options={itemsOf(items, kind).map((i) => ({ id: i.key, title: i.plan.name }))}
      none={none}
      chosen={chosen}
      onChange={onChange}
    />
  );
}

function LineChoice({ count, onChange }: { count: number; onChange: (line: [number, number][]) => void }) {
  const set = useBench((s) => s.set);
  const draw = () =>
    set({
      ...atRest,
      tool: 'draw',
      drawing: {
        what: 'the line of this rule',
        points: [],
        done: (points) => {
          onChange(points.map(([x, , z]) => [x, z]));
          set(atRest);
        },
      },
    });
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
      <Typography sx={{ fontSize: 12 }}>{count} points</Typography>
      <Button onClick={draw}>Draw it in the plate</Button>
    </Box>
  );
}

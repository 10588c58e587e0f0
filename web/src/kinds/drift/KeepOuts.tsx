import { Box, Button, Menu, MenuItem, Typography } from '@mui/material';
import type { PlanOf } from '../../api/client';
import type { KeepOut } from '../../api/defaults';
import { itemsOf, useSite } from '../../state/site';
import { Field } from '../../ui/Field';
import { Section } from '../../ui/Section';
import { memoControl } from '../../ui/memoControl';
import { useDropMenu } from '../../ui/dropMenu';

interface Props {
  itemKey: string;
  title: string;
  keepOuts: PlanOf<'drift'>['keep_outs'];
  onCommit: (label: string, keepOuts: KeepOut[]) => void;
  onDraft: (keepOuts: KeepOut[]) => void;
}

/** What a drift may not enter, each with its clearance, measured with the plants' own bodies. */
export const KeepOuts = memoControl(function KeepOuts({ itemKey, title, keepOuts, onCommit, onDraft }: Props) {
  const { open, close, menu } = useDropMenu();
  const items = useSite((s) => s.items);
  const name = (of: string) =>
    of === 'pieces'
      ? 'all pieces'
      : of === 'paths'
        ? 'paths and ditches'
        : of === 'stations'
          ? 'what the cameras see through'
          : (items[of]?.plan.name ?? `${of}: no longer there`);
  const options = [
    { id: 'pieces', title: 'all pieces', about: 'walls, decks, rails, to their real triangles' },
    { id: 'paths', title: 'paths and ditches', about: 'the floors of those in the ground, wherever they are moved' },
    { id: 'stations', title: 'camera corridors', about: 'the line of sight before each station' },
    ...itemsOf(items, 'drift')
      .filter((d) => d.key !== itemKey)
      .map((d) => ({ id: d.key, title: d.plan.name, about: 'stem to stem' })),
    ...itemsOf(items, 'piece').map((p) => ({ id: p.key, title: p.plan.name, about: 'this piece alone' })),
  ].filter((o) => !keepOuts.some((k) => k.of === o.id));
  const replaced = (index: number, next: KeepOut) => keepOuts.map((k, n) => (n === index ? next : k));
  return (
    <Section title="Keeps out of" remark={keepOuts.length ? `${keepOuts.length}` : 'nothing'}>
      {keepOuts.map((keep, k) => (
        <Box key={keep.of}>
          <Box sx={{ display: 'flex', alignItems: 'center' }}>
            <Typography sx={{ flex: 1, fontSize: 12.5, fontWeight: 500 }}>{name(keep.of)}</Typography>
            <Button
              color="inherit"
              aria-label={`No longer keep out of ${name(keep.of)}`}
              sx={{ px: 0.5, lineHeight: 1 }}
              onClick={() =>
                onCommit(
                  `keep-outs of ${title}`,
                  keepOuts.filter((_, n) => n !== k),
                )
              }
            >
              ×
            </Button>
          </Box>
          <Field
            model="KeepOut"
            field="clearance"
            label="clearance"
            value={keep.clearance}
            onDraft={(v) => onDraft(replaced(k, { ...keep, clearance: v }))}
            onCommit={(v) => onCommit(`clearance to ${name(keep.of)}`, replaced(k, { ...keep, clearance: v }))}
          />
          {keep.of === 'stations' && (
            <Field
              model="KeepOut"
              field="reach"
              label="free for"
              value={keep.reach}
              onDraft={(v) => onDraft(replaced(k, { ...keep, reach: v }))}
              onCommit={(v) => onCommit('reach of the corridors', replaced(k, { ...keep, reach: v }))}
            />
          )}
        </Box>
      ))}
      <Button onClick={open}>+ keep-out</Button>
      <Menu {...menu}>
        {options.map((o) => (
          <MenuItem
            key={o.id}
            dense
            onClick={() => {
              close();
              onCommit(`keep ${title} out of ${o.title}`, [
                ...keepOuts,
                { of: o.id, clearance: o.id === 'stations' ? 0.6 : 0.05, reach: 6 },
              ]);
            }}
          >
            <Typography sx={{ flex: 1 }}>{o.title}</Typography>
            <Typography sx={{ ml: 2, fontSize: 11, color: 'text.secondary' }}>{o.about}</Typography>
          </MenuItem>
        ))}
      </Menu>
    </Section>
  );
});

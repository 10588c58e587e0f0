import { Button, Divider, Menu, MenuItem, Tooltip } from '@mui/material';
import { useState } from 'react';
import { useDropMenu } from '../../ui/dropMenu';
import { freeName } from '../../state/fresh';
import { MaterialPicture } from '../../ui/MaterialPicture';
import { itemsOf, newKey, useSite } from '../../state/site';
import { begun } from './begun';
import { useWeatherings } from './Dials';
import { exchanged, type Kept } from './uses';

const picture = { width: 18, height: 18, marginRight: 8 };

/** One patina for another, on all surfaces that carry it or on those picked, in one step that can be undone. */
export function Exchange({ from, surfaces }: { from: Kept; surfaces: string[] }) {
  const { open, close, menu } = useDropMenu();
  const [busy, setBusy] = useState(false);
  const kinds = useWeatherings();
  const items = useSite((s) => s.items);
  const others = itemsOf(items, 'patina').filter((item) => item.key !== from.key);
  const swap = (to: Kept) => {
    const { commit, select } = useSite.getState();
    commit(`${to.plan.name} instead of ${from.plan.name}`, exchanged(from, to, surfaces));
    select(to.key);
  };
  const begin = async (kind: string) => {
    close();
    setBusy(true);
    const plan = await begun(kind, surfaces);
    setBusy(false);
    if (!plan) return;
    const name = freeName(useSite.getState().items, plan.name);
    swap({ key: newKey('patina'), plan: { ...plan, name, order: from.plan.order, uses: [] } });
  };
  return (
    <>
      <Tooltip title="Another patina in place of this one on these surfaces. This one stays in the list, and one step back undoes it.">
        <span>
          <Button onClick={open} disabled={busy || surfaces.length === 0}>
            {busy ? 'exchanging…' : 'Exchange for…'}
          </Button>
        </span>
      </Tooltip>
      <Menu {...menu}>
        {others.map(({ key, plan }) => (
          <MenuItem
            key={key}
            dense
            onClick={() => {
              close();
              swap({ key, plan });
            }}
          >
            <MaterialPicture id={plan.finish.material} tint={plan.finish.tint} style={picture} />
            {plan.name}
          </MenuItem>
        ))}
        {others.length > 0 && <Divider />}
        {kinds?.map((kind) => (
          <MenuItem key={kind.key} dense onClick={() => void begin(kind.key)}>
            <MaterialPicture id={kind.material} tint={kind.tint} style={picture} />
            new: {kind.title.toLowerCase()}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from '@mui/material';
import { useState } from 'react';
import { MaterialPicture } from '../../ui/MaterialPicture';
import { useCarriers } from '../../ui/Surfaces';
import { itemsOf, useSite } from '../../state/site';
import { ink, mono } from '../../theme';
import { amountOn, laidOn, stackLaid, type Kept } from './uses';

const head = { position: 'sticky', top: 0, background: ink.paper, zIndex: 1, verticalAlign: 'bottom' } as const;
const picture = { width: 18, height: 18, verticalAlign: 'middle', marginRight: 6 };

/** What lies on what: surfaces by patinas, set with one click each; a whole stack is copied from row to row. */
export function TableButton() {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>What lies on what</Button>
      {open && <Table onClose={() => setOpen(false)} />}
    </>
  );
}

function Table({ onClose }: { onClose: () => void }) {
  const surfaces = useCarriers();
  const items = useSite((s) => s.items);
  const commit = useSite((s) => s.commit);
  const [copied, setCopied] = useState<string | null>(null);
  const patinas: Kept[] = itemsOf(items, 'patina')
    .map(({ key, plan }) => ({ key, plan }))
    .sort((a, b) => a.plan.order - b.plan.order);
  const label = (ref: string) => surfaces.find((s) => s.ref === ref)?.label ?? ref;
  const toggle = ({ key, plan }: Kept, ref: string) => {
    const on = amountOn(plan, ref) !== undefined;
    const said = on ? `take ${plan.name} off ${label(ref)}` : `${plan.name} on ${label(ref)}`;
    commit(said, [{ key, plan: laidOn(plan, ref, on ? null : 1) }]);
  };
  const lay = (to: string) => {
    const edits = stackLaid(patinas, copied as string, to);
    if (edits.length) commit(`patinas of ${label(copied as string)} on ${label(to)}`, edits);
  };
  return (
    <Dialog open onClose={onClose} maxWidth="lg" aria-labelledby="what-lies">
      <DialogTitle id="what-lies">What lies on what</DialogTitle>
      <DialogContent sx={{ maxHeight: 560, minWidth: 620 }}>
        <Typography sx={{ fontSize: 12.5, color: 'text.secondary', mb: 1 }}>
          Lowest at the left. Click a square to lay a patina on a surface or to take it off. The number is how far it is
          turned down there.
        </Typography>
        <table style={{ borderCollapse: 'collapse', fontSize: 12 }}>
          <thead>
            <tr>
              <th style={{ ...head, left: 0, textAlign: 'left' }}>surface</th>
              {patinas.map(({ key, plan }) => (
                <th key={key} style={{ ...head, fontWeight: 500, padding: '0 2px 6px' }}>
                  <span style={{ writingMode: 'vertical-rl', transform: 'rotate(180deg)' }}>{plan.name}</span>
                </th>
              ))}
              <th style={head} />
            </tr>
          </thead>
          <tbody>
            {surfaces.map((s) => (
              <tr key={s.ref} style={{ borderTop: `1px solid ${ink.line}` }}>
                <th scope="row" style={{ textAlign: 'left', fontWeight: 400, paddingRight: 12, whiteSpace: 'nowrap' }}>
                  <MaterialPicture id={s.material} style={picture} />
                  {s.label}
                </th>
                {patinas.map((kept) => (
                  <Square key={kept.key} kept={kept} surface={s.ref} label={s.label} onClick={toggle} />
                ))}
                <td style={{ whiteSpace: 'nowrap', paddingLeft: 10 }}>
                  {copied && copied !== s.ref ? (
                    <Button sx={{ fontSize: 11.5, py: 0 }} onClick={() => lay(s.ref)}>
                      lay the copied stack here
                    </Button>
                  ) : (
                    <Button
                      sx={{ fontSize: 11.5, py: 0 }}
                      aria-label={`Copy the stack of ${s.label}`}
                      onClick={() => setCopied(copied ? null : s.ref)}
                    >
                      {copied ? 'copied – let go' : 'copy stack'}
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Done</Button>
      </DialogActions>
    </Dialog>
  );
}

interface SquareProps {
  kept: Kept;
  surface: string;
  label: string;
  onClick: (kept: Kept, surface: string) => void;
}

function Square({ kept, surface, label, onClick }: SquareProps) {
  const amount = amountOn(kept.plan, surface);
  const on = amount !== undefined;
  return (
    <td style={{ padding: 1 }}>
      <Box
        component="button"
        role="checkbox"
        aria-checked={on}
        aria-label={`${kept.plan.name} on ${label}`}
        onClick={() => onClick(kept, surface)}
        sx={{
          width: 30,
          height: 22,
          border: `1px solid ${ink.line}`,
          bgcolor: on ? ink.water : 'transparent',
          opacity: on ? 0.35 + 0.65 * amount : 1,
          color: ink.paper,
          fontFamily: mono,
          fontSize: 10,
          cursor: 'pointer',
        }}
      >
        {on && amount < 1 ? amount.toFixed(2).slice(1) : ''}
      </Box>
    </td>
  );
}
